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

from ..core.errors import BadInput
from ..services.devices.devices import Device
from .context import context, context_of
from .listener import Admit, Admitted
from .network import BEYOND, is_beyond

ADDRESSES = "ADDRESSES"
_SAFE = ("GET", "HEAD", "OPTIONS")


def init_app(app: Flask) -> None:
    """Stand at the door."""
    app.config.setdefault(ADDRESSES, ("http://localhost",))
    app.before_request(_turn_away)


def addresses(port: int, more: str = "") -> tuple[str, ...]:
    """The addresses a server on this machine goes by; the first is the one that is printed.

    Parameters: port; more, one it is reached by besides, as a browser has it. Raises BadInput where
    that is no address.
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
        raise BadInput(
            "address",
            more,
            "must be as a browser has it, without a path, such as http://bench.local:8765",
        )
    return (f"{found.scheme}://{found.netloc.lower()}", *own)


def printed_address(path: str) -> str:
    """A page's whole address for paper: as it is configured, else by the shop's network, else on
    this machine; never by the name the request came by. Parameters: path, from the root.
    """
    configured, beyond = current_app.config[ADDRESSES], context().network.addresses
    return str((beyond or configured)[0] if _is_own(configured[0]) else configured[0]) + path


def _is_own(address: str) -> bool:
    return urlsplit(address).hostname in ("127.0.0.1", "localhost")


def known_addresses() -> list[str]:
    """The addresses that a request may ask for: from this machine its own, from beyond the
    network's and the one configured.
    """
    return _known_to(current_app, is_beyond(request.environ))


def _known_to(app: Flask, beyond: bool) -> list[str]:
    configured = app.config[ADDRESSES]
    if not beyond:
        return [address for address in configured if _is_own(address)]
    return [
        *(address for address in configured if not _is_own(address)),
        *context_of(app).network.addresses,
    ]


def cookie_name() -> str:
    """The cookie that holds a device's secret: cookies know no ports, and each instance has one of
    its own.
    """
    return _cookie_of(current_app)


def _cookie_of(app: Flask) -> str:
    return str(app.config["SESSION_COOKIE_NAME"]).replace("wisearc-", "wisearc-device-")


def device() -> Device | None:
    """The device a request from beyond comes from, or None where it was never let in."""
    found: Device | None = context().devices.known(request.cookies.get(cookie_name(), ""))
    return found


NOT_LET_IN = "This device is not let in, so nothing was taken. Open Wise Arc's first page on it."
NOT_OURS = (
    "This was sent from another site's page and was not taken. Send it from Wise Arc's own page."
)
# as much as the page that lets in sends
LARGEST_UNINVITED = 16 * 1024


def admission(app: Flask, beyond: bool = False) -> Admit:
    """What is taken of a request by its head, before any of its body is. Parameters: beyond,
    whether it is asked of what a listener beyond this machine took.
    """

    def admit(path: str, head: Mapping[str, str]) -> Admitted:
        environ = {f"HTTP_{name}": value for name, value in head.items()}
        if beyond:
            environ[BEYOND] = "yes"
        far = is_beyond(environ)
        if far:
            cookies = parse_cookie(head.get("COOKIE", ""))
            if context_of(app).devices.known(cookies.get(_cookie_of(app), "")) is None:
                return Admitted(LARGEST_UNINVITED, NOT_LET_IN)
        if _is_foreign(head.get("SEC_FETCH_SITE", ""), head.get("ORIGIN"), _known_to(app, far)):
            return Admitted(LARGEST_UNINVITED, NOT_OURS)
        return Admitted(
            app.config["LARGER_POSTS"].get(unquote(path), app.config["MAX_CONTENT_LENGTH"])
        )

    return admit


def _is_foreign(site: str, origin: str | None, known: list[str]) -> bool:
    """Whether what is sent comes from another site's page."""
    if site in ("cross-site", "same-site"):
        return True
    return origin is not None and origin.lower() not in known


def is_secure() -> bool:
    """Whether the browser came by TLS: behind a proxy the request itself does not say so, the
    address that it goes by does.
    """
    return request.is_secure or f"https://{request.host.lower()}" in known_addresses()


def asks() -> str:
    """Who asks, for what is counted by who does: the device that was let in, else the address."""
    found = device() if is_beyond(request.environ) else None
    return f"device {found.id}" if found else f"address {request.environ.get('REMOTE_ADDR', '')}"


# what is shown to who was not let in: the page that lets in, and what it is made of
OPEN_TO_ALL = ("door.let_in", "door.let_in_here", "static")


def _turn_away() -> ResponseReturnValue | None:
    known = known_addresses()
    beyond = is_beyond(request.environ)
    host = request.environ.get("HTTP_HOST", "").lower()
    # the port that goes without saying may be said
    asked = {host, host.removesuffix(":80"), host.removesuffix(":443")}
    if asked.isdisjoint(urlsplit(address).netloc for address in known):
        where = f" Open {known[0]}/ instead;" if known and not beyond else ""
        return _plain(
            f"This is not an address of Wise Arc here.{where or ' Ask for the right one;'} nothing"
            " was taken.",
            421,
        )
    return _foreign(known) or (_not_let_in() if beyond else None)


def _not_let_in() -> ResponseReturnValue | None:
    """Nothing but the page that lets in for who was not let in."""
    if request.endpoint in OPEN_TO_ALL or device() is not None:
        return None
    if request.method in _SAFE and request.accept_mimetypes.best != "application/json":
        return redirect(url_for("door.let_in"), 303)
    if request.accept_mimetypes.best == "application/json":
        return jsonify(error=NOT_LET_IN), 403
    return _plain(NOT_LET_IN, 403)


def _foreign(known: list[str]) -> ResponseReturnValue | None:
    site, mode = (
        request.headers.get("Sec-Fetch-Site", ""),
        request.headers.get("Sec-Fetch-Mode", ""),
    )
    foreign = site in ("cross-site", "same-site")
    if request.method in _SAFE:
        if foreign and (
            mode != "navigate" or request.headers.get("Sec-Fetch-Dest", "document") != "document"
        ):
            return _plain(
                "Pages of Wise Arc are opened by themselves, not from within another site's page.",
                403,
            )
        return None
    # said before anything of it is read
    request.max_content_length = current_app.config["LARGER_POSTS"].get(
        request.path, current_app.config["MAX_CONTENT_LENGTH"]
    )
    if _is_foreign(site, request.headers.get("Origin"), known):
        return _plain(NOT_OURS, 403)
    return None


def _plain(sentence: str, code: int) -> Response:
    """A sentence alone: no page of ours is built for who is turned away."""
    return Response(sentence + "\n", code, mimetype="text/plain")
