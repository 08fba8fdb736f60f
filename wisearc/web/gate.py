"""Who is let in: requests that mean this server, from its own pages.

A page of another site can make a browser send to this machine, under a name that leads here (DNS rebinding) or as a
picture or form of its own. It is turned away by the Host it asks for, the Origin it comes from, and what the browser says of it.
"""

from __future__ import annotations

from typing import Any
from urllib.parse import urlsplit

from flask import Flask, Response, current_app, request

from ..core.errors import BadInput

ADDRESSES = "ADDRESSES"
_SAFE = ("GET", "HEAD", "OPTIONS")


def init_app(app: Flask) -> None:
    """Stand at the door."""
    app.config.setdefault(ADDRESSES, ("http://localhost",))
    app.before_request(_turn_away)


def addresses(port: int, more: str = "") -> tuple[str, ...]:
    """The addresses a server on this machine goes by; the first is the one that is printed.

    Parameters: port; more, one it is reached by besides, as a browser has it. Raises BadInput where that is no address.
    """
    own = tuple(f"http://{name}" + (f":{port}" if port != 80 else "") for name in ("127.0.0.1", "localhost"))
    if not more:
        return own
    try:
        found = urlsplit(more)
        sound = found.scheme in ("http", "https") and found.hostname and found.port != 0
    except ValueError:
        sound = False
    if not sound or found.path not in ("", "/") or found.query or found.fragment or "@" in found.netloc:
        raise BadInput("address", more, "must be as a browser has it, without a path, such as http://bench.local:8765")
    return (f"{found.scheme}://{found.netloc.lower()}", *own)


def printed_address(path: str) -> str:
    """A page's whole address, as it is configured, whatever name the request came by. Parameters: path, from the root."""
    return str(current_app.config[ADDRESSES][0]) + path


def _turn_away() -> Any:
    known = current_app.config[ADDRESSES]
    if request.environ.get("HTTP_HOST", "").lower() not in [urlsplit(address).netloc for address in known]:
        return _plain(f"This is not an address of Wise Arc here. Open {known[0]}/ instead; nothing was taken.", 421)
    site, mode = request.headers.get("Sec-Fetch-Site", ""), request.headers.get("Sec-Fetch-Mode", "")
    foreign = site in ("cross-site", "same-site")
    if request.method in _SAFE:
        if foreign and (mode != "navigate" or request.headers.get("Sec-Fetch-Dest", "document") != "document"):
            return _plain("Pages of Wise Arc are opened by themselves, not from within another site's page.", 403)
        return None
    # said before anything of it is read
    request.max_content_length = current_app.config["LARGER_POSTS"].get(
        request.path, current_app.config["MAX_CONTENT_LENGTH"]
    )
    if foreign or request.headers.get("Origin", known[0]).lower() not in known:
        return _plain(
            "This was sent from another site's page and was not taken. Send it from Wise Arc's own page.", 403
        )
    return None


def _plain(sentence: str, code: int) -> Response:
    """A sentence alone: no page of ours is built for who is turned away."""
    return Response(sentence + "\n", code, mimetype="text/plain")
