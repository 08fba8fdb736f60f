"""Wrong input: links, forms, addresses and files of wrong pieces, at random by a seed."""

from __future__ import annotations

import copy
import io
import json
import random
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any
from urllib.parse import quote_from_bytes

from benchmarks.fuzz_texts import KEYS, NUMBERS, TEXTS
from wisearc.core import catalogue
from wisearc.core.joint.joint import (
    ACCESSES,
    COATINGS,
    CONTROLS,
    FINISHES,
    FORMS,
    HEAVY_FORMS,
    SERVICES,
    SHEET_FORMS,
    Joint,
    Member,
)
from wisearc.core.joint.rules import PLATE_FORMS, STUD_FORMS
from wisearc.core.plan.pins import PINS
from wisearc.core.run.run import run_figures
from wisearc.core.schema.entries import read_entries


@dataclass(frozen=True)
class Sent:
    """A request: method, path with query, form or file, headers and cookies."""

    method: str
    path: str
    form: dict[str, Any]
    headers: dict[str, str]
    units: str


class Fuzz:
    """An endless source of requests."""

    def __init__(self, seed: int, files: list[dict[str, Any]]) -> None:
        """Start a generator with a seed and valid files."""
        self.random, self.files = random.Random(seed), files
        self.keys = [
            *KEYS,
            *(f"{m}.{key}" for m in "abc" for key in read_entries(Member)),
            *read_entries(Joint),
            *(f"pins.{pin}" for pin in PINS),
        ]
        self.fields = [
            "when",
            "who",
            "machine",
            "notes",
            "front",
            "back",
            "outcome",
            "habit",
            "faults",
            *(f"{part}.{key}" for part, known in run_figures().items() for key in known),
        ]

    def one(self) -> Sent:
        """Return the next request."""
        r = self.random
        make = r.choice(
            (
                self.plan,
                self.plan,
                self.plan,
                self.keep,
                self.keep,
                self.run,
                self.run,
                self.draft,
                self.file,
                self.other,
            )
        )
        return make()

    def text(self) -> bytes:
        """Return random text."""
        r = self.random
        if r.random() < 0.2:
            return b"".join(r.choice(TEXTS)[:40] for _ in range(r.randint(2, 4)))
        return r.choice(TEXTS)

    def query(self, most: int = 12) -> str:
        """Return a random query."""
        r = self.random
        pairs = [
            (r.choice(self.keys), self.sense() if r.random() < 0.5 else self.text())
            for _ in range(r.randint(0, most))
        ]
        if r.random() < 0.01:
            pairs *= 400
        return "&".join(f"{key}={quote_from_bytes(text, safe='')}" for key, text in pairs)[:60000]

    def sense(self) -> bytes:
        """Return a plausible value."""
        r = self.random
        names = [
            *catalogue.load_joint_kinds(),
            *catalogue.load_metals(),
            *catalogue.load_rods(),
            *FORMS,
            *SERVICES,
            *FINISHES,
            *CONTROLS,
            *ACCESSES,
            *catalogue.load_positions(),
        ]
        return r.choice(
            (
                r.choice(names),
                f"{r.uniform(0, 30):.2f}",
                f"{r.uniform(0.3, 6):.1f} mm",
                str(r.randint(0, 20000)),
            )
        ).encode()

    def sent(self, path: str, form: dict[str, Any] | None = None) -> Sent:
        """Return a request with a form."""
        r = self.random
        headers = {"X-Have": r.choice(("", "a:b,c", ":::", "x" * 3000))} if r.random() < 0.2 else {}
        if r.random() < 0.1:
            headers["Accept"] = "application/json"
        return Sent(
            "GET" if form is None else "POST",
            path,
            form or {},
            headers,
            r.choice(("mm", "in", "mm", "yards")),
        )

    def plan(self) -> Sent:
        """Return a random Plan address."""
        path = self.random.choice(("/", "/", "/", "/", "/compare", "/hold", "/preferences"))
        if path == "/compare":
            sides = [
                quote_from_bytes(self.random.choice((self.query().encode(), self.text())), safe="")
                for _ in range(2)
            ]
            return self.sent(f"{path}?left={sides[0]}&right={sides[1]}")
        query = self.query()
        if self.random.random() < 0.4:
            query = (
                f"link={quote_from_bytes(self.query().encode(errors='replace'), safe='')}&"
                f"{query}&"
                f"{self.random.choice(('same=b', 'third=add', 'third=drop', 'third=x'))}"
            )
        return self.sent(f"{path}?{query}&open={self.random.choice(self.keys)}")

    def place(self) -> str:
        """Return a random section address."""
        r = self.random
        number = r.choice(
            (
                "P-0001",
                "P-0002",
                "P-0003",
                "P-0000",
                "p-1",
                quote_from_bytes(self.text()[:300], safe=""),
            )
        )
        return (
            f"/procedures/{number}/"
            f"{r.choice(('A', 'A', 'B', 'a', 'ZZZ', quote_from_bytes(self.text()[:300], safe='')))}"
        )

    def keep(self) -> Sent:
        """Return a request that saves a draft."""
        r = self.random
        if r.random() < 0.4:
            return self.sent(
                f"/procedures/?q={quote_from_bytes(self.text(), safe='')}&"
                f"status={r.choice(('', 'draft', 'x', 'removed'))}&"
                f"page={quote_from_bytes(self.text(), safe='')[:300]}"
            )
        return self.sent(
            self.place()
            + r.choice(
                (
                    "",
                    "/print",
                    "/drawings",
                    ".json",
                    f"?page={quote_from_bytes(self.text(), safe='')[:90]}",
                    "?taken=run&once=x",
                    "/x",
                )
            )
        )

    def run(self) -> Sent:
        """Return a request that records a run."""
        r = self.random
        form: dict[str, Any] = {}
        for field in r.sample(self.fields, r.randint(0, len(self.fields))):
            sense = {
                "when": "2026-03-04",
                "who": "R.T.",
                "front": "straw",
                "back": "silver",
                "outcome": "good",
            }.get(field, "5")
            form[field] = sense if r.random() < 0.6 else self.form_text()
        form["faults"] = [
            r.choice((*catalogue.load_flaws(), "rain", self.form_text()))
            for _ in range(r.randint(0, 3))
        ]
        form["once"] = r.choice(("", "t1", self.form_text()))
        form["corrected_by"] = r.choice(("R.T.", "", self.form_text()))
        if r.random() < 0.2:
            form["fill"] = r.choice(("planned", "last", self.form_text()))
        elif r.random() < 0.3:
            form["outcome"] = "as-done"
        acts = (
            "/runs",
            "/runs",
            "/runs",
            "/away",
            "/back",
            "/runs/look",
            (
                f"/runs/{r.choice(('1', '2', '0', '99999999999999999999', 'x'))}/"
                f"{r.choice(('strike', 'count', 'correct'))}"
            ),
        )
        return self.sent(self.place() + r.choice(acts), form)

    def form_text(self) -> str:
        """Return random form text."""
        return self.text().decode("utf-8", "replace")[:9000]

    def draft(self) -> Sent:
        """Return a request that changes a draft."""
        r = self.random
        form = {"link": self.query(), "once": self.form_text()}
        if r.random() < 0.4:
            form |= {
                r.choice(("draft", "from")): r.choice(("P-0001", "P-0002", self.form_text())),
                "edit": self.form_text(),
            }
        return self.sent("/procedures/draft", form)

    def file(self) -> Sent:
        """Return a request with an uploaded file."""
        r = self.random
        if r.random() < 0.15:
            data = r.choice(
                (
                    self.text(),
                    b"[" * 90000,
                    b'{"a":' * 9000,
                    b'{"format":"wisearc/procedure","version":1e400}',
                    b"[]" * 999,
                    b"{" + b'"a":1,' * 30000,
                )
            )
        else:
            data = json.dumps(spoilt(r, r.choice(self.files))).encode()
        return self.sent(
            "/procedures/read", {"file": (io.BytesIO(data), "p.json"), "once": self.form_text()}
        )

    def other(self) -> Sent:
        """Return another random request."""
        r = self.random
        if r.random() < 0.3:
            return self.sent(
                "/shop/preferences",
                {
                    "key": r.choice(("tip_school", self.form_text())),
                    "value": r.choice(("needle", self.form_text())),
                },
            )
        path = quote_from_bytes(self.text()[:200], safe="/")
        return self.sent(
            r.choice(
                (
                    "/reference/",
                    "/reference/sources",
                    f"/{path}",
                    f"/static/{path}",
                    f"/procedures/{path}",
                    "/shop/",
                    f"/shop/{path}",
                )
            )
        )


def spoilt(r: random.Random, whole: dict[str, Any]) -> dict[str, Any]:
    """Return a file with one to three errors.

    A wrong value, a missing or additional key, a list that is too long.
    """
    data = copy.deepcopy(whole)
    data["number"] = f"P-{r.randint(1, 9999):04d}"
    places = list(_places(data))
    for _ in range(r.choice((1, 1, 2, 3))):
        holder, key = r.choice(places)
        act = r.random()
        if isinstance(holder, dict):
            if act < 0.15:
                holder.pop(key, None)
            elif act < 0.2:
                holder[r.choice(("zz", "a\nb", "x" * 100, "\ud800"))] = r.choice(NUMBERS)
            else:
                holder[key] = _other(r, holder.get(key))
        elif key < len(holder):
            if act < 0.15:
                del holder[key]
            elif act < 0.25:
                holder *= r.choice((2, 50))
            else:
                holder[key] = _other(r, holder[key])
    return data


def _other(r: random.Random, value: Any) -> Any:
    """Return another value, usually of the same kind."""
    if isinstance(value, bool) or value is None or r.random() < 0.5:
        return r.choice(NUMBERS)
    if isinstance(value, int | float):
        return r.choice(
            (
                0,
                -value,
                value * 1.01,
                value * 1e3,
                value * 1e-6,
                value + 1,
                float(value),
                int(value),
            )
        )
    if isinstance(value, str):
        return r.choice((value + "\n", value[::-1], "", value * 9, "draft", "P-0001", "304L"))
    return r.choice(NUMBERS)


def _places(data: Any) -> Iterator[tuple[Any, Any]]:
    items = (
        data.items()
        if isinstance(data, dict)
        else enumerate(data)
        if isinstance(data, list)
        else ()
    )
    for key, value in list(items):
        yield data, key
        yield from _places(value)


def any_joint(r: random.Random) -> dict[str, Any]:
    """Return random joint data over all possible values.

    Some are refused.
    """
    kind = r.choice(list(catalogue.load_joint_kinds().values()))
    forms = {
        "sheet": [r.choice(SHEET_FORMS), r.choice(SHEET_FORMS)],
        "tube": ["tube", "tube"],
        "tube-plate": ["tube", r.choice(("sheet", "flange", "bar"))],
        "stud": [r.choice(PLATE_FORMS), r.choice(STUD_FORMS)],
    }[kind.forms]
    members = []
    for form in forms:
        thick = r.choice(
            (0.3, 0.5, 0.8, 1, 1.5, 2, 3, 6, *((10, 25, 50) if form in HEAVY_FORMS else ()))
        )
        members.append(
            {
                "metal": r.choice(list(catalogue.load_metals())),
                "form": form,
                "thickness_mm": thick,
                "coating": r.choice(("none",) * 5 + tuple(COATINGS)),
            }
        )
        if form == "tube":
            members[-1]["diameter_mm"] = members[0].get("diameter_mm") or r.choice(
                (3, 6, 12, 25, 51, 300, 1000)
            )
    data: dict[str, Any] = {
        "joint": kind.key,
        "members": members,
        "length_mm": r.choice((1, 10, 100, 380, 2000, 20000)),
    }
    if forms[0] == "tube" and r.random() < 0.7:
        del data["length_mm"]
        data["length"] = "all-round"
    for key, declared in read_entries(Joint).items():
        if key in ("joint", "length", "title") or r.random() > 0.3:
            continue
        if declared.kind in ("number", "length"):
            name = f"{key}_mm" if declared.kind == "length" else key
            data[name] = r.choice(
                (declared.low, declared.high, round(r.uniform(declared.low, declared.high), 2))
            )
        else:
            data[key] = r.choice(list(declared.allowed()))
    pins = {name: _pinned(r, pin.by_hand) for name, pin in PINS.items() if r.random() < 0.12}
    return data | ({"pins": pins} if pins else {})


def _pinned(r: random.Random, by_hand: Any) -> Any:
    return (
        r.choice(by_hand.allowed)
        if by_hand.allowed
        else r.choice((by_hand.low, by_hand.high, round(r.uniform(by_hand.low, by_hand.high), 2)))
    )
