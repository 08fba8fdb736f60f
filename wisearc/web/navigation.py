"""The places: each a package beside this file that declares its `PLACE`; a new one is its folder
and nothing else.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from importlib import import_module
from pkgutil import iter_modules

from flask import Blueprint
from msgspec import Struct, field

from .. import web


class Place(Struct, frozen=True):
    """A place of the application.

    Its blueprint, under whose name it goes, with its templates (and `static`, if it has styles of
    its own) in its folder; the page it begins at; its label; the letter that leads there after g;
    where it stands among the rest; the stage of the work it is, by the heat tint that marks it, or
    "" for one that stands by as a tool; the addresses that take more than a form, with how many
    bytes.
    """

    blueprint: Blueprint
    begins: str
    label: str
    letter: str
    order: int
    tint: str = ""
    larger: Mapping[str, int] = field(default_factory=dict)

    @property
    def key(self) -> str:
        """Its name in endpoints, templates and styles."""
        return self.blueprint.name


@cache
def list_sections() -> tuple[Place, ...]:
    """Every place, in the order of the work. Raises ValueError where two go by one letter."""
    modules = [
        import_module(f"{web.__name__}.{m.name}") for m in iter_modules(web.__path__) if m.ispkg
    ]
    found = sorted((m.PLACE for m in modules if hasattr(m, "PLACE")), key=lambda place: place.order)
    letters = [place.letter for place in found]
    if len(set(letters)) < len(letters):
        raise ValueError(
            f"two sections use one letter: {', '.join(letters)}. Give each a different one"
        )
    return tuple(found)
