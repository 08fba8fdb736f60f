"""Pages of device access: pairing, and on this machine the switch, the code and the devices."""

from __future__ import annotations

from flask import (
    Blueprint,
    abort,
    make_response,
    redirect,
    render_template,
    request,
    url_for,
)
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...presenters.qr_code import draw_qr_code
from ...services.devices.devices import Devices
from ...services.errors import NotAllowed, StoreError
from ..context import get_request_context
from ..errors import get_code
from ..gate import find_device, get_client, get_cookie_name, is_secure, needs_secure_cookies
from ..network import Network, is_beyond
from ..numbers import parse_integer
from ..preferences import YEAR_S

blueprint = Blueprint("devices", __name__, url_prefix="", template_folder="templates")


def _get_devices() -> Devices:
    devices: Devices = get_request_context().devices
    return devices


def _get_network() -> Network:
    network: Network = get_request_context().network
    return network


@blueprint.get("/let-in")
def show_pairing() -> ResponseReturnValue:
    """Show the pairing page, the only page for an unpaired device."""
    if not is_beyond(request.environ) or find_device() is not None:
        return redirect(url_for("plan.page"), 303)
    return _render_pairing(request.args.get("code", ""))


def _render_pairing(digits: str = "", name: str = "", error: str = "") -> str:
    return render_template("devices/let_in.html", digits=digits[:12], name=name[:60], error=error)


@blueprint.post("/let-in")
def pair() -> ResponseReturnValue:
    """Pair the device that sent the code."""
    if not is_beyond(request.environ):
        return redirect(url_for("plan.page"), 303)
    digits, name = request.form.get("digits", ""), request.form.get("name", "")
    try:
        secret = _get_devices().pair(digits, name, get_client())
    except InputError as error:
        return _render_pairing("", name, error.sentence), 422
    except StoreError as error:
        return _render_pairing("", name, str(error)), (
            429 if isinstance(error, NotAllowed) else get_code(error)
        )
    answer = make_response(redirect(url_for("plan.page"), 303))
    answer.set_cookie(
        get_cookie_name(),
        secret,
        max_age=YEAR_S,
        samesite="Lax",
        httponly=True,
        secure=needs_secure_cookies(),
    )
    return answer


def _require_this_machine() -> None:
    """Check that the request comes from this machine."""
    if is_beyond(request.environ):
        abort(403, "Pair and remove devices on the computer that runs Wise Arc.")


@blueprint.get("/shop/devices")
def devices() -> ResponseReturnValue:
    """Show the switch, the code and the devices on this machine; on another device, its name."""
    if is_beyond(request.environ):
        return render_template("devices/mine.html", device=find_device())
    return _render_devices()


def _render_devices(error: str = "", code: bool = False) -> str:
    network, devices, digits, qr = _get_network(), _get_devices(), "", ""
    if code and network.is_on:
        digits = devices.code().digits
        qr = draw_qr_code(f"{network.addresses[0]}{url_for('devices.show_pairing')}?code={digits}")
    return render_template(
        "devices/devices.html",
        network=network,
        devices=devices.all(),
        digits=digits,
        qr=qr,
        left=devices.left_s(),
        error=error,
    )


@blueprint.post("/shop/devices/code")
def code() -> ResponseReturnValue:
    """Show the pairing code for one device."""
    _require_this_machine()
    try:
        return _render_devices(code=True)
    except StoreError as error:
        return _render_devices(str(error)), get_code(error)


@blueprint.post("/shop/devices/switch")
def switch() -> ResponseReturnValue:
    """Switch the network on or off."""
    _require_this_machine()
    on = request.form.get("on") == "yes"
    try:
        if on:
            _get_network().on()
        else:
            _get_network().off()
        _get_devices().switch(on)
    except InputError as error:
        return _render_devices(error.sentence), 422
    return redirect(url_for("devices.devices"), 303)


@blueprint.post("/shop/devices/out")
def remove() -> ResponseReturnValue:
    """Remove a device."""
    _require_this_machine()
    text = request.form.get("device", "")
    _get_devices().revoke(parse_integer(text))
    return redirect(url_for("devices.devices"), 303)


@blueprint.get("/trust")
def trust() -> ResponseReturnValue:
    """Show how a device trusts the secure address. The page is public: it has no secret."""
    network = _get_network()
    return render_template(
        "devices/trust.html",
        network=network,
        authority=network.authority,
        is_secure=is_secure(),
        is_here=not is_beyond(request.environ),
    )


@blueprint.get("/trust/wise-arc.crt")
def authority() -> ResponseReturnValue:
    """Send the certificate of the authority of this shop."""
    secure = _get_network().authority
    if secure is None:
        abort(404, "There is no secure address. Turn the network on under Shop, Devices.")
    answer = make_response(secure.authority_der)
    answer.headers["Content-Type"] = "application/x-x509-ca-cert"
    answer.headers["Content-Disposition"] = 'attachment; filename="wise-arc.crt"'
    return answer
