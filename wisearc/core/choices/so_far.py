"""What is known so far: the joint, its section, the shop, and every choice already made."""

from __future__ import annotations

from typing import TypeVar

from ..joint import Joint
from ..reasons import Choice
from ..section import Section
from ..shop import Shop

T = TypeVar("T", bound=Choice)


class SoFar:
    """The bench as it stands while choices are made in order; each choice is asked for by its type."""

    def __init__(self, joint: Joint, section: Section, shop: Shop) -> None:
        self.joint = joint
        self.section = section
        self.shop = shop
        self._made: dict[type[Choice], Choice] = {}

    def put(self, choice: Choice) -> None:
        """Add a choice."""
        self._made[type(choice)] = choice

    def get(self, kind: type[T]) -> T:
        """The choice of a type. Raises LookupError where it is asked for before it is made."""
        found = self._made.get(kind)
        if not isinstance(found, kind):
            raise LookupError(f"{kind.__name__} is not chosen yet; see the order in plan.py")
        return found

    def made(self) -> tuple[Choice, ...]:
        """Every choice so far, in order."""
        return tuple(self._made.values())
