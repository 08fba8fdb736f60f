"""The preferences of a user in cookies: units, theme, single-letter shortcuts, initials, machine.

A link sets the first three, with or without script. A recorded run sets the others.
"""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import urlsplit

from flask import Flask, make_response, redirect, request
from flask.typing import ResponseReturnValue
from werkzeug.wrappers import Response

from ..core.joint.words import convert_title
from ..core.quantities import UNIT_SYSTEMS
from ..core.run.run import MAX_NAME

THEMES = ("light", "dark")
YEAR_S = 31_536_000
# The preferences that a link can set, and their values.
KNOWN = {"habit": UNIT_SYSTEMS, "theme": THEMES, "keys": ("on", "off")}


def init_app(app: Flask) -> None:
    """Give the preferences to every template, and register the address that sets them."""
    app.context_processor(
        lambda: {
            "habit": get_units(),
            "theme": get_theme(),
            "keys_on": request.cookies.get("keys") != "off",
        }
    )
    app.add_template_filter(lambda title: convert_title(title, get_units()), "own_units")
    app.add_url_rule("/preferences", "preferences", set_preference)


def get_units() -> str:
    """Return the unit system of this user, "mm" by default."""
    units = request.cookies.get("habit", "mm")
    return units if units in UNIT_SYSTEMS else "mm"


def get_theme() -> str:
    """Return the selected theme, or "" to follow the device."""
    chosen = request.cookies.get("theme", "")
    return chosen if chosen in THEMES else ""


def get_user() -> str:
    """Return the initials of the user of this device, or ""."""
    return request.cookies.get("who", "")[:MAX_NAME]


def get_machine() -> str:
    """Return the machine of the last run on this device, or ""."""
    return request.cookies.get("machine", "")[:MAX_NAME]


def save_user_and_machine(response: Response, typed: Mapping[str, str]) -> None:
    """Save welder and machine of a recorded run for the next one.

    Args:
        response: The response with the cookies.
        typed: The entries of the run form.
    """
    for name in ("who", "machine"):
        response.set_cookie(
            name, typed.get(name, "")[:MAX_NAME], max_age=YEAR_S, samesite="Lax", httponly=True
        )


def set_preference() -> ResponseReturnValue:
    """Set the preference in the address, and return to the page of the link."""
    answer = make_response(redirect(back_where("/"), 302))
    for name, allowed in KNOWN.items():
        if (value := request.args.get(name, "")) in allowed:
            answer.set_cookie(name, value, max_age=YEAR_S, samesite="Lax")
    return answer


def back_where(otherwise: str) -> str:
    """Return the path of the page before this request, or another path."""
    referrer = urlsplit(request.referrer or "")
    if (
        referrer.netloc != request.host
        or not referrer.path.startswith("/")
        or referrer.path.startswith(("//", "/\\"))
    ):
        return otherwise
    return referrer.path + (f"?{referrer.query}" if referrer.query else "")
