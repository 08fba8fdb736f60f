"""Who is let in: requests that mean this server, from its own pages.

A page of another site can make a browser send to this machine, under a name that leads here (DNS
rebinding) or as a picture or form of its own. It is turned away by the Host it asks for, the Origin
it comes from, and what the browser says of it.
"""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import unquote, urlsplit

from flask import Flask, Response, current_app, jsonify, redirect, request, url_for
from flask.typing import ResponseReturnValue
from werkzeug.http import parse_cookie

from ..core.errors import InputError
from ..services.devices.devices import Device
from .context import get_context, get_request_context
from .listener import BodyLimit, GetBodyLimit
from .network import BEYOND, is_beyond

ADDRESSES = "ADDRESSES"
_SAFE = ("GET", "HEAD", "OPTIONS")


def init_app(app: Flask) -> None:
    """Stand at the door."""
    app.config.setdefault(ADDRESSES, ("http://localhost",))
    app.before_request(_turn_away)


def list_addresses(port: int, more: str = "") -> tuple[str, ...]:
    """List the addresses of the server. The first is printed at the start.

    Args:
        port: The port of the server.
        more: An additional address, as in the browser.

    Raises:
        InputError: The additional address is not valid.
    """
    own = tuple(
        f"http://{name}" + (f":{port}" if port != 80 else "") for name in ("127.0.0.1", "localhost")
    )
    if not more:
        return own
    try:
        found = urlsplit(more)
        sound = found.scheme in ("http", "https") and found.hostname and found.port != 0
    except ValueError:
        sound = False
    if (
        not sound
        or found.path not in ("", "/")
        or found.query
        or found.fragment
        or "@" in found.netloc
    ):
        raise InputError(
            "address",
            more,
            "must be an address without a path, such as http://bench.local:8765",
        )
    return (f"{found.scheme}://{found.netloc.lower()}", *own)


def format_printed_address(path: str) -> str:
    """A page's whole address for paper: as it is configured, else by the shop's network, else on
    this machine; never by the name the request came by. Parameters: path, from the root.
    """
    configured, beyond = current_app.config[ADDRESSES], get_request_context().network.addresses
    return str((beyond or configured)[0] if _is_own(configured[0]) else configured[0]) + path


def _is_own(address: str) -> bool:
    return urlsplit(address).hostname in ("127.0.0.1", "localhost")


def list_known_addresses() -> list[str]:
    """The addresses that a request may ask for: from this machine its own, from beyond the
    network's and the one configured.
    """
    return _get_addresses(current_app, is_beyond(request.environ))


def _get_addresses(app: Flask, beyond: bool) -> list[str]:
    configured = app.config[ADDRESSES]
    if not beyond:
        return [address for address in configured if _is_own(address)]
    return [
        *(address for address in configured if not _is_own(address)),
        *get_context(app).network.addresses,
    ]


def get_cookie_name() -> str:
    """The cookie that holds a device's secret: cookies know no ports, and each instance has one of
    its own.
    """
    return _get_cookie_name(current_app)


def _get_cookie_name(app: Flask) -> str:
    return str(app.config["SESSION_COOKIE_NAME"]).replace("wisearc-", "wisearc-device-")


def find_device() -> Device | None:
    """The device a request from beyond comes from, or None where it was never let in."""
    found: Device | None = get_request_context().devices.known(
        request.cookies.get(get_cookie_name(), "")
    )
    return found


NOT_LET_IN = (
    "Not saved: this device is not paired. Open the first page of Wise Arc on it and enter a code."
)
NOT_OURS = "Not saved: the request came from another site. Use the pages of Wise Arc."
# The pairing form is smaller.
MAX_UNPAIRED_BYTES = 16 * 1024


def limit_bodies(app: Flask, is_remote: bool = False) -> GetBodyLimit:
    """Build the function that limits a request body from its headers.

    Args:
        app: The application.
        is_remote: Whether the listener is on the shop network.
    """

    def get_body_limit(path: str, headers: Mapping[str, str]) -> BodyLimit:
        environ = {f"HTTP_{name}": value for name, value in headers.items()}
        if is_remote:
            environ[BEYOND] = "yes"
        remote = is_beyond(environ)
        if remote:
            cookies = parse_cookie(headers.get("COOKIE", ""))
            if get_context(app).devices.known(cookies.get(_get_cookie_name(app), "")) is None:
                return BodyLimit(MAX_UNPAIRED_BYTES, NOT_LET_IN)
        site, origin = headers.get("SEC_FETCH_SITE", ""), headers.get("ORIGIN")
        if _is_foreign(site, origin, _get_addresses(app, remote)):
            return BodyLimit(MAX_UNPAIRED_BYTES, NOT_OURS)
        larger, usual = app.config["LARGER_POSTS"], app.config["MAX_CONTENT_LENGTH"]
        return BodyLimit(larger.get(unquote(path), usual))

    return get_body_limit


def _is_foreign(site: str, origin: str | None, known: list[str]) -> bool:
    """Return whether a page of another site sent the request.

    Args:
        site: Header Sec-Fetch-Site.
        origin: Header Origin, or None.
        known: Addresses of this server.
    """
    if site in ("cross-site", "same-site"):
        return True
    return origin is not None and origin.lower() not in known


def is_secure() -> bool:
    """Return whether the browser uses TLS. Behind a proxy only the address shows this."""
    return request.is_secure or f"https://{request.host.lower()}" in list_known_addresses()


def get_client() -> str:
    """Return the paired device, or else the address, for which attempts are counted."""
    paired = find_device() if is_beyond(request.environ) else None
    return f"device {paired.id}" if paired else f"address {request.environ.get('REMOTE_ADDR', '')}"


# what is shown to who was not let in: the page that lets in, and what it is made of
OPEN_TO_ALL = ("devices.let_in", "devices.let_in_here", "static")


def _turn_away() -> ResponseReturnValue | None:
    known = list_known_addresses()
    beyond = is_beyond(request.environ)
    host = request.environ.get("HTTP_HOST", "").lower()
    # A browser can include the default port.
    names = {host, host.removesuffix(":80"), host.removesuffix(":443")}
    if names.isdisjoint(urlsplit(address).netloc for address in known):
        where = f" Open {known[0]}/ instead." if known and not beyond else ""
        return _build_plain(
            (
                f"This is not an address of Wise Arc.{where or ' Ask for the right one.'} "
                "Nothing was saved."
            ),
            421,
        )
    return _refuse_foreign(known) or (_refuse_unpaired() if beyond else None)


def _refuse_unpaired() -> ResponseReturnValue | None:
    """Nothing but the page that lets in for who was not let in."""
    if request.endpoint in OPEN_TO_ALL or find_device() is not None:
        return None
    if request.method in _SAFE and request.accept_mimetypes.best != "application/json":
        return redirect(url_for("devices.let_in"), 303)
    if request.accept_mimetypes.best == "application/json":
        return jsonify(error=NOT_LET_IN), 403
    return _build_plain(NOT_LET_IN, 403)


def _refuse_foreign(known: list[str]) -> ResponseReturnValue | None:
    site, mode = (
        request.headers.get("Sec-Fetch-Site", ""),
        request.headers.get("Sec-Fetch-Mode", ""),
    )
    foreign = site in ("cross-site", "same-site")
    if request.method in _SAFE:
        if foreign and (
            mode != "navigate" or request.headers.get("Sec-Fetch-Dest", "document") != "document"
        ):
            return _build_plain(
                "Another site cannot embed pages of Wise Arc. Open them directly.",
                403,
            )
        return None
    # said before anything of it is read
    request.max_content_length = current_app.config["LARGER_POSTS"].get(
        request.path, current_app.config["MAX_CONTENT_LENGTH"]
    )
    if _is_foreign(site, request.headers.get("Origin"), known):
        return _build_plain(NOT_OURS, 403)
    return None


def _build_plain(sentence: str, code: int) -> Response:
    """A sentence alone: no page of ours is built for who is turned away."""
    return Response(sentence + "\n", code, mimetype="text/plain")
