"""The address of a Plan page: its joint, and the address of every offered change.

An address is the link of a joint with keys of the page (view, draft, edit, from). A change has the
complete link under `link`, and the changed keys: /?link=joint%3Dlap…&pins.cup=6. It can be opened
directly, and a form sends it.
"""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import parse_qsl, urlencode

from flask import Request, url_for
from msgspec import Struct, field

from ...core.schema.json_types import JsonObject

# Address keys of the page, not of the joint.
TARGET = ("draft", "edit", "from")
PAGE_KEYS = (*TARGET, "view", "link", "open", "bare")


class Here(Struct, frozen=True):
    """The present link of the joint, the drawing, and the target of a save."""

    link: str
    view: str = ""
    target: Mapping[str, str] = field(default_factory=dict)
    bare: bool = False

    @property
    def hidden(self) -> list[tuple[str, str]]:
        """Return the hidden fields of a form."""
        return [("link", self.link), *self._page()]

    @property
    def address(self) -> str:
        """Return the present address of the page."""
        return self._at(parse_qsl(self.link))

    def take(self, sets: JsonObject, opened: str = "") -> str:
        """Return the address of this joint with changed keys.

        Args:
            sets: Keys and values; "" or None removes a key.
            opened: The open answer.
        """
        pairs = [
            (key, "" if value is None else f"{value:g}" if isinstance(value, float) else str(value))
            for key, value in sets.items()
        ]
        more = [("open", opened)] if opened else []
        return self._at([("link", self.link), *pairs], more) + (
            f"#answer-{opened}" if opened else ""
        )

    def shown(self, view: str) -> str:
        """Return the address of this joint with another drawing."""
        return Here(self.link, view, self.target, self.bare).address

    def within(self, shop: bool) -> str:
        """Return the address of this joint planned with or without the shop."""
        return Here(self.link, self.view, self.target, not shop).address

    def beside(self, sets: JsonObject) -> str:
        """Return the address that compares this joint with a change."""
        pairs = [(key, "" if value is None else str(value)) for key, value in sets.items()]
        return url_for(
            "plan.compare_page", left=self.link, right=urlencode([("link", self.link), *pairs])
        )

    def _page(self) -> list[tuple[str, str]]:
        return [
            *([("view", self.view)] if self.view else []),
            *([("bare", "1")] if self.bare else []),
            *self.target.items(),
        ]

    def _at(self, pairs: list[tuple[str, str]], more: list[tuple[str, str]] | None = None) -> str:
        return url_for("plan.page") + "?" + urlencode([*pairs, *self._page(), *(more or [])])


def find_target(request: Request) -> dict[str, str]:
    """Return the draft or revision of an address, the target of a save."""
    return {key: request.args[key] for key in TARGET if request.args.get(key)}


def list_joint_pairs(query: str) -> list[tuple[str, str]]:
    """Return the pairs of a query string that describe the joint or a change of it."""
    return [(k, v) for k, v in parse_qsl(query, keep_blank_values=True) if k not in PAGE_KEYS]
