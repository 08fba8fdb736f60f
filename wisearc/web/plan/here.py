"""Where a page of Plan stands: the joint in its address, and the address of every change that is
offered on it.

An address is a joint's link with the page's own keys (view, draft, edit, from). A change is the
link it changes, whole under `link`, with what is put into it: /?link=joint%3Dlap…&pins.cup=6. It
can be opened like any other, and is what a form sends.
"""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import parse_qsl, urlencode

from flask import Request, url_for
from msgspec import Struct, field

from ...core.schema.json_types import JsonObject

# keys of an address that belong to the page, not to the joint
TARGET = ("draft", "edit", "from")
PAGE_KEYS = (*TARGET, "view", "link", "open", "bare")


class Here(Struct, frozen=True):
    """The link of the joint as it stands, the drawing that is shown, and what a keeping goes
    into.
    """

    link: str
    view: str = ""
    target: Mapping[str, str] = field(default_factory=dict)
    bare: bool = False

    @property
    def hidden(self) -> list[tuple[str, str]]:
        """What a form gives along with its fields."""
        return [("link", self.link), *self._page()]

    @property
    def address(self) -> str:
        """The address of the page as it stands."""
        return self._at(parse_qsl(self.link))

    def take(self, sets: JsonObject, opened: str = "") -> str:
        """The address of this joint with some of it set, "" or None to let it go. Parameters:
        opened, the answer it stands in.
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
        """The address of this joint with another drawing."""
        return Here(self.link, view, self.target, self.bare).address

    def within(self, shop: bool) -> str:
        """The address of this joint planned within the shop, or as if nothing of it were
        entered.
        """
        return Here(self.link, self.view, self.target, not shop).address

    def beside(self, sets: JsonObject) -> str:
        """The address that sets this joint beside what another choice makes of it."""
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
    """What of an address says into which draft or revision the joint is kept."""
    return {key: request.args[key] for key in TARGET if request.args.get(key)}


def list_joint_pairs(query: str) -> list[tuple[str, str]]:
    """The pairs of a query string that describe the joint or a change of it."""
    return [(k, v) for k, v in parse_qsl(query, keep_blank_values=True) if k not in PAGE_KEYS]
