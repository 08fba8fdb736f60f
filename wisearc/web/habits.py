"""The visitor's habits, in cookies: units and theme."""

from __future__ import annotations

from flask import Flask, request

from ..core.quantities import HABITS

THEMES = ("light", "dark")


def init_app(app: Flask) -> None:
    """Give every template the habits."""
    app.context_processor(lambda: {"habit": unit_habit(), "theme": theme()})


def unit_habit() -> str:
    """The unit habit of this visitor, "mm" until another is chosen."""
    habit = request.cookies.get("habit", "mm")
    return habit if habit in HABITS else "mm"


def theme() -> str:
    """The theme chosen, or "" to follow the device."""
    chosen = request.cookies.get("theme", "")
    return chosen if chosen in THEMES else ""
