"""A job as it is entered: parts, and seams that join them, each a joint; what must come before
what, and what hides what.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from graphlib import CycleError, TopologicalSorter
from itertools import pairwise

from ..errors import BadInput
from ..joint.joint import Joint
from ..schema.entries import entry, one_of

SIDES = {"left": "left", "middle": "middle", "right": "right"}
LONGEST_KEY, LONGEST_PART, LONGEST_TITLE, LONGEST_FACE, LONGEST_NOTE = 24, 40, 120, 24, 400
# an assembly of more is welded in sub-assemblies, each a job of its own
MOST_SEAMS, MOST_PARTS, MOST_JOINED, MOST_PIECES = 200, 120, 4, 500
MOST_LINES, LONGEST_STUFF = 60, 48
DIAL_S, TORCH_S, CLAMP_S, BALANCE_S, PIECE_S = 60.0, 180.0, 240.0, 30.0, 30.0


@dataclass(frozen=True)
class Seam:
    """A seam: its key, its joint or the procedure it is welded by, the parts it joins, where it
    lies and how the work is clamped for it, whether it is seen, the seams before it, those it
    hides, and how wide the sheet lies free beside it, mm (None: not told).
    """

    key: str = entry("text", required=True, high=LONGEST_KEY, label="Seam")
    joint: Joint | None = None
    procedure: str | None = entry("text", None, high=20, label="Procedure")
    called: str = entry("text", "", usual="", high=LONGEST_TITLE, key="title", label="Called")
    joins: tuple[str, ...] = ()
    side: str = entry("name", "middle", usual="middle", names=one_of(SIDES), label="Side")
    face: str = entry("text", "top", usual="top", high=LONGEST_FACE, label="Face up")
    seen: bool = entry("yes", True, usual=True, label="Seen")
    after: tuple[str, ...] = ()
    hides: tuple[str, ...] = ()
    free_mm: float | None = entry(
        "number", None, low=5, high=3000, unit="mm", quantity="length", label="Free sheet beside it"
    )

    @property
    def title(self) -> str:
        """What it is called, its key where it was not named."""
        return self.called or (self.joint.title if self.joint is not None else "") or self.key


@dataclass(frozen=True)
class Cut:
    """A line of a part's cut list: how many, of what, how long and how wide (None: of tube, bar or
    rod) mm.
    """

    count: int
    what: str
    length_mm: float
    width_mm: float | None = None


@dataclass(frozen=True)
class Hole:
    """A hole in a part: how wide, where from its own corner, mm."""

    diameter_mm: float
    x_mm: float
    y_mm: float


@dataclass(frozen=True)
class Part:
    """What is known of a part besides its name: a note, its cut list, its holes, and where it is
    drawn: left, top, width and height, of 100.
    """

    note: str = ""
    cuts: tuple[Cut, ...] = ()
    holes: tuple[Hole, ...] = ()
    at: tuple[float, float, float, float] | None = None


@dataclass(frozen=True)
class Times:
    """What turning the dial, rebuilding the torch, clamping anew and taking up another piece take,
    s.
    """

    dial_s: float = entry(
        "number", DIAL_S, usual=DIAL_S, low=0, high=7200, unit="s", label="A dial"
    )
    torch_s: float = entry(
        "number", TORCH_S, usual=TORCH_S, low=0, high=7200, unit="s", label="A torch"
    )
    clamp_s: float = entry(
        "number", CLAMP_S, usual=CLAMP_S, low=0, high=7200, unit="s", label="A clamping"
    )
    piece_s: float = entry(
        "number", PIECE_S, usual=PIECE_S, low=0, high=7200, unit="s", label="Another piece"
    )


@dataclass(frozen=True)
class Job:
    """A job. about: what is known of parts, by name; order: the seams as a hand has put them, ()
    for as found; first, last: seams pinned there.
    """

    title: str
    quantity: int
    parts: tuple[str, ...]
    seams: tuple[Seam, ...]
    times: Times = Times()
    balance_s: float = BALANCE_S
    about: Mapping[str, Part] = field(default_factory=dict)
    order: tuple[str, ...] = ()
    first: str = ""
    last: str = ""

    def seam(self, key: str) -> Seam:
        """A seam by its key. Raises KeyError."""
        return next(s for s in self.seams if s.key == key)

    @property
    def unjoined(self) -> tuple[str, ...]:
        """The parts that no seam joins."""
        joined = {part for seam in self.seams for part in seam.joins}
        return tuple(part for part in self.parts if part not in joined)


@dataclass(frozen=True)
class Before:
    """One seam that must come before another, and why: "after" (it was said so), "hides", "first"
    or "last".
    """

    one: str
    other: str
    why: str

    @property
    def words(self) -> str:
        """The rule as a sentence says it."""
        if self.why == "hides":
            return f"{self.one} is hidden by {self.other}, so it comes first"
        if self.why == "first":
            return f"{self.one} is pinned first"
        if self.why == "last":
            return f"{self.other} is pinned last"
        return f"{self.one} must come before {self.other}"


def precedence(job: Job) -> tuple[Before, ...]:
    """All that must come before what: as said, as hidden, as pinned."""
    found = []
    for seam in job.seams:
        found += [Before(key, seam.key, "after") for key in seam.after]
        found += [Before(key, seam.key, "hides") for key in seam.hides]
    keys = [seam.key for seam in job.seams]
    if job.first:
        found += [Before(job.first, key, "first") for key in keys if key != job.first]
    if job.last:
        found += [Before(key, job.last, "last") for key in keys if key != job.last]
    return tuple(found)


def circle(pairs: Iterable[Before]) -> list[str]:
    """The seams of a circle among what must come before what, in order and closed; [] where there
    is none.

    >>> circle([Before("a", "b", "after"), Before("b", "a", "hides")])
    ['b', 'a', 'b']
    """
    graph: TopologicalSorter[str] = TopologicalSorter()
    for pair in pairs:
        graph.add(pair.other, pair.one)
    try:
        graph.prepare()
    except CycleError as error:
        return list(error.args[1])
    return []


def check_precedence(job: Job) -> None:
    """Refuse what no order can hold. Raises BadInput naming the seams."""
    for i, seam in enumerate(job.seams):
        for name, keys in (("after", seam.after), ("hides", seam.hides)):
            if seam.key in keys:
                words = "hides itself" if name == "hides" else "comes after itself"
                raise BadInput(
                    f"seams[{i}].{name}",
                    seam.key,
                    f"{words}; take {seam.key} out of its own “{name}”",
                )
    pairs = precedence(job)
    if found := circle(pairs):
        said = " before ".join(found)
        why = [p.why for p in pairs if (p.one, p.other) in set(pairwise(found))]
        how = (
            "take one of the pins or “after” away"
            if {"first", "last"} & set(why)
            else "take one “after” or “hides” of them away"
        )
        raise BadInput("seams", " ".join(found), f"go in a circle: {said}; {how}")
