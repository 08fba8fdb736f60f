"""The sections: each is a package next to this file with its `PLACE`.

A new section needs only its folder.
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
    """A section of the application.

    Its folder has its blueprint of the same name, its templates, and optionally `static`. It has a
    start page, a label, a shortcut letter after g, a position, a stage of the work with the heat
    tint that marks it ("" for a tool), the size limits of addresses with uploads, bytes, and
    whether the navigation lists it.
    """

    blueprint: Blueprint
    begins: str
    label: str
    letter: str
    order: int
    tint: str = ""
    larger: Mapping[str, int] = field(default_factory=dict)
    is_listed: bool = True

    @property
    def key(self) -> str:
        """Return its name in endpoints, templates and styles."""
        return self.blueprint.name


@cache
def list_sections() -> tuple[Place, ...]:
    """Return every section in the order of the work.

    Raises:
        ValueError: Two sections have the same letter.
    """
    modules = [
        import_module(f"{web.__name__}.{m.name}") for m in iter_modules(web.__path__) if m.ispkg
    ]
    sections = sorted(
        (m.PLACE for m in modules if hasattr(m, "PLACE")), key=lambda place: place.order
    )
    letters = [place.letter for place in sections]
    if len(set(letters)) < len(letters):
        raise ValueError(
            f"two sections use one letter: {', '.join(letters)}. Give each a different one"
        )
    return tuple(sections)
