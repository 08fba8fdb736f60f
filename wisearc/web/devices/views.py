"""Pages of the door: letting a device in, and, on this machine alone, the switch, the digits and
the devices.
"""

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

from ...core.errors import BadInput
from ...services.devices.devices import Devices
from ...services.errors import NotAllowed, StoreError
from ..context import context
from ..errors import code_of
from ..gate import cookie_name, device, get_client, is_secure
from ..network import Network, is_beyond
from ..numbers import whole_number
from ..preferences import YEAR_S
from ..procedures.sheet import qr_svg

blueprint = Blueprint("devices", __name__, url_prefix="", template_folder="templates")


def _devices() -> Devices:
    found: Devices = context().devices
    return found


def _network() -> Network:
    found: Network = context().network
    return found


@blueprint.get("/let-in")
def let_in() -> ResponseReturnValue:
    """The page that lets a device in; all that it sees until then."""
    if not is_beyond(request.environ) or device() is not None:
        return redirect(url_for("plan.page"), 303)
    return _let_in_page(request.args.get("code", ""))


def _let_in_page(digits: str = "", name: str = "", error: str = "") -> str:
    return render_template("devices/let_in.html", digits=digits[:12], name=name[:60], error=error)


@blueprint.post("/let-in")
def let_in_here() -> ResponseReturnValue:
    """Let the device in that sent the digits."""
    if not is_beyond(request.environ):
        return redirect(url_for("plan.page"), 303)
    digits, name = request.form.get("digits", ""), request.form.get("name", "")
    try:
        secret = _devices().let_in(digits, name, get_client())
    except BadInput as error:
        return _let_in_page("", name, error.sentence), 422
    except StoreError as error:
        return _let_in_page("", name, str(error)), (
            429 if isinstance(error, NotAllowed) else code_of(error)
        )
    answer = make_response(redirect(url_for("plan.page"), 303))
    answer.set_cookie(
        cookie_name(), secret, max_age=YEAR_S, samesite="Lax", httponly=True, secure=is_secure()
    )
    return answer


def _on_this_machine() -> None:
    """The door is kept at the machine itself."""
    if is_beyond(request.environ):
        abort(403, "Pair and remove devices on the computer that runs Wise Arc.")


@blueprint.get("/shop/devices")
def devices() -> ResponseReturnValue:
    """The switch, the digits, the devices: on this machine; on another, its own name."""
    if is_beyond(request.environ):
        return render_template("devices/mine.html", device=device())
    return _devices_page()


def _devices_page(error: str = "", code: bool = False) -> str:
    network, found, digits, qr = _network(), _devices(), "", ""
    if code and network.is_on:
        digits = found.code().digits
        qr = qr_svg(f"{network.addresses[0]}{url_for('devices.let_in')}?code={digits}")
    return render_template(
        "devices/devices.html",
        network=network,
        devices=found.all(),
        digits=digits,
        qr=qr,
        left=found.left_s(),
        error=error,
    )


@blueprint.post("/shop/devices/code")
def code() -> ResponseReturnValue:
    """Show the digits that let one device in."""
    _on_this_machine()
    try:
        return _devices_page(code=True)
    except StoreError as error:
        return _devices_page(str(error)), code_of(error)


@blueprint.post("/shop/devices/switch")
def switch() -> ResponseReturnValue:
    """Listen beyond this machine, or no more."""
    _on_this_machine()
    on = request.form.get("on") == "yes"
    try:
        if on:
            _network().on()
        else:
            _network().off()
        _devices().switch(on)
    except BadInput as error:
        return _devices_page(error.sentence), 422
    return redirect(url_for("devices.devices"), 303)


@blueprint.post("/shop/devices/out")
def out() -> ResponseReturnValue:
    """Put a device out."""
    _on_this_machine()
    text = request.form.get("device", "")
    _devices().put_out(whole_number(text))
    return redirect(url_for("devices.devices"), 303)
