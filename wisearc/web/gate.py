"""Access control: only requests for this server from its own pages.

A page of another site can make a browser send to this machine, under a name that resolves to it
(DNS rebinding), or by an image or a form. Such a request is refused by its Host, its Origin, and
the metadata of the browser.
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
from .network import FROM_NETWORK, SECURE, is_beyond

ADDRESSES = "ADDRESSES"
_SAFE = ("GET", "HEAD", "OPTIONS")


def init_app(app: Flask) -> None:
    """Register the checks."""
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
    own_addresses = tuple(
        f"http://{name}" + (f":{port}" if port != 80 else "") for name in ("127.0.0.1", "localhost")
    )
    if not more:
        return own_addresses
    try:
        address = urlsplit(more)
        is_valid = address.scheme in ("http", "https") and address.hostname and address.port != 0
    except ValueError:
        is_valid = False
    if (
        not is_valid
        or address.path not in ("", "/")
        or address.query
        or address.fragment
        or "@" in address.netloc
    ):
        raise InputError(
            "address",
            more,
            "must be an address without a path, such as http://bench.local:8765",
        )
    return (f"{address.scheme}://{address.netloc.lower()}", *own_addresses)


def format_printed_address(path: str) -> str:
    """Return the full address of a page for paper.

    As configured, or by the shop network, or on this machine. The name of the request is never
    used.

    Args:
        path: Path from the root.
    """
    configured, network_addresses = (
        current_app.config[ADDRESSES],
        get_request_context().network.addresses,
    )
    return (
        str((network_addresses or configured)[0] if _is_own(configured[0]) else configured[0])
        + path
    )


def _is_own(address: str) -> bool:
    return urlsplit(address).hostname in ("127.0.0.1", "localhost")


def list_known_addresses() -> list[str]:
    """Return the valid addresses of a request.

    Local ones, or those of the network and the configured one.
    """
    return _get_addresses(current_app, is_beyond(request.environ))


def _get_addresses(app: Flask, is_remote: bool) -> list[str]:
    configured = app.config[ADDRESSES]
    if not is_remote:
        return [address for address in configured if _is_own(address)]
    return [
        *(address for address in configured if not _is_own(address)),
        *get_context(app).network.addresses,
        *get_context(app).network.secure_addresses,
    ]


def get_cookie_name() -> str:
    """Return the name of the cookie with the secret of a device.

    Cookies ignore ports, so each instance has a separate one.
    """
    return _get_cookie_name(current_app)


def _get_cookie_name(app: Flask) -> str:
    return str(app.config["SESSION_COOKIE_NAME"]).replace("wisearc-", "wisearc-device-")


def find_device() -> Device | None:
    """Return the device of a network request, or None if not paired."""
    device: Device | None = get_request_context().devices.known(
        request.cookies.get(get_cookie_name(), "")
    )
    return device


NOT_PAIRED = (
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
            environ[FROM_NETWORK] = "yes"
        remote = is_beyond(environ)
        if remote:
            cookies = parse_cookie(headers.get("COOKIE", ""))
            if get_context(app).devices.known(cookies.get(_get_cookie_name(app), "")) is None:
                return BodyLimit(MAX_UNPAIRED_BYTES, NOT_PAIRED)
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


def needs_secure_cookies() -> bool:
    """Return whether the browser may send cookies only over TLS.

    The network has a plain address too. A browser would not let it replace such a cookie, and its
    pages would no longer work.
    """
    return is_secure() and request.environ.get(FROM_NETWORK) != SECURE


def get_client() -> str:
    """Return the paired device, or else the address, for which attempts are counted."""
    paired = find_device() if is_beyond(request.environ) else None
    return f"device {paired.id}" if paired else f"address {request.environ.get('REMOTE_ADDR', '')}"


# The addresses for unpaired devices: the pairing page and its files.
OPEN_TO_ALL = (
    "devices.show_pairing",
    "devices.pair",
    "devices.trust",
    "devices.authority",
    "static",
)


def _turn_away() -> ResponseReturnValue | None:
    known = list_known_addresses()
    is_remote = is_beyond(request.environ)
    host = request.environ.get("HTTP_HOST", "").lower()
    # A browser can include the default port.
    names = {host, host.removesuffix(":80"), host.removesuffix(":443")}
    if names.isdisjoint(urlsplit(address).netloc for address in known):
        where = f" Open {known[0]}/ instead." if known and not is_remote else ""
        return _build_plain(
            (
                f"This is not an address of Wise Arc.{where or ' Ask for the right one.'} "
                "Nothing was saved."
            ),
            421,
        )
    return _refuse_foreign(known) or (_refuse_unpaired() if is_remote else None)


def _refuse_unpaired() -> ResponseReturnValue | None:
    """Refuse everything except the pairing page to an unpaired device."""
    if request.endpoint in OPEN_TO_ALL or find_device() is not None:
        return None
    if request.method in _SAFE and request.accept_mimetypes.best != "application/json":
        return redirect(url_for("devices.show_pairing"), 303)
    if request.accept_mimetypes.best == "application/json":
        return jsonify(error=NOT_PAIRED), 403
    return _build_plain(NOT_PAIRED, 403)


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
    # The refusal comes before any of the body is read.
    request.max_content_length = current_app.config["LARGER_POSTS"].get(
        request.path, current_app.config["MAX_CONTENT_LENGTH"]
    )
    if _is_foreign(site, request.headers.get("Origin"), known):
        return _build_plain(NOT_OURS, 403)
    return None


def _build_plain(sentence: str, code: int) -> Response:
    """Return a page with only a sentence.

    A refused client gets no page of the application.
    """
    return Response(sentence + "\n", code, mimetype="text/plain")
