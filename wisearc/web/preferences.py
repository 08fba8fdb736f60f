"""The visitor's habits, in cookies: units, theme, single-letter keys, who stands at the bench. Set
by a link, with script or without.
"""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, make_response, redirect, request
from flask.typing import ResponseReturnValue

from ..core.quantities import HABITS

THEMES = ("light", "dark")
YEAR_S = 31_536_000
# what a link can set, and to what
KNOWN = {"habit": HABITS, "theme": THEMES, "keys": ("on", "off")}


def init_app(app: Flask) -> None:
    """Give every template the habits, and an address to set them by."""
    app.context_processor(
        lambda: {
            "habit": get_units(),
            "theme": get_theme(),
            "keys_on": request.cookies.get("keys") != "off",
        }
    )
    app.add_url_rule("/habits", "habits", set_habits)


def get_units() -> str:
    """The unit habit of this visitor, "mm" until another is chosen."""
    habit = request.cookies.get("habit", "mm")
    return habit if habit in HABITS else "mm"


def get_theme() -> str:
    """The theme chosen, or "" to follow the device."""
    chosen = request.cookies.get("theme", "")
    return chosen if chosen in THEMES else ""


def set_habits() -> ResponseReturnValue:
    """Set what the address says, and go back to the page it was asked from."""
    answer = make_response(redirect(back_where("/"), 302))
    for name, allowed in KNOWN.items():
        if (value := request.args.get(name, "")) in allowed:
            answer.set_cookie(name, value, max_age=YEAR_S, samesite="Lax")
    return answer


def back_where(otherwise: str) -> str:
    """The page of ours that a request came from, as a path; another where it came from none."""
    came = urlsplit(request.referrer or "")
    if (
        came.netloc != request.host
        or not came.path.startswith("/")
        or came.path.startswith(("//", "/\\"))
    ):
        return otherwise
    return came.path + (f"?{came.query}" if came.query else "")
