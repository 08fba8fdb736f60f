"""A job as it is entered: parts, and seams that join them, each a joint; what must come before
what, and what hides what.
"""

import re
from collections.abc import Iterable, Mapping
from graphlib import CycleError, TopologicalSorter
from itertools import pairwise
from types import MappingProxyType
from typing import Annotated, Any

from msgspec import Struct

from ..errors import InputError
from ..joint.data import joint_data, make_joint
from ..joint.joint import Joint
from ..schema import checks
from ..schema.entries import Entry, Own, list_options

SIDES = {"left": "left", "middle": "middle", "right": "right"}
NO_PARTS: Mapping[str, Any] = MappingProxyType({})
MAX_KEY_LENGTH, MAX_PART_LENGTH, MAX_TITLE_LENGTH, MAX_FACE_LENGTH, MAX_NOTE_LENGTH = (
    24,
    40,
    120,
    24,
    400,
)
# an assembly of more is welded in sub-assemblies, each a job of its own
MAX_SEAMS, MAX_PARTS, MAX_JOINED, MAX_PIECES = 200, 120, 4, 500
MAX_LINES, MAX_MATERIAL_LENGTH = 60, 48
MAX_LENGTH_MM = 20_000.0
NO_KEY = "is missing. Give each seam a short key such as c1"


def _read_key(name: str, value: Any) -> str:
    found = checks.check_line(name, value, MAX_KEY_LENGTH).strip()
    if not found:
        raise InputError(name, found, NO_KEY)
    if "," in found or " " in found:
        rule = "must be one word without a comma, because sequences separate keys by commas"
        raise InputError(name, found, rule)
    return found


def _read_joint(name: str, value: Any) -> Joint:
    data = {
        k: v for k, v in checks.check_mapping(name, value).items() if k not in ("format", "version")
    }
    try:
        return make_joint(data)
    except InputError as error:
        raise InputError(f"{name}.{error.field}", error.value, error.rule) from error


def _declare_line(most: int, empty: str | None) -> Own:
    """One line of text, without spaces at its ends; `empty` for none."""
    return Own(
        lambda name, value: checks.check_line(name, value, most).strip() or empty,
        lambda value: value,
        lambda: {"type": "string", "maxLength": most, "pattern": f"^{checks.LINE}$"},
    )


def _read_place(name: str, value: Any) -> tuple[float, ...]:
    rows = checks.check_rows(name, value, 4)
    if len(rows) != 4:
        raise InputError(name, value, "must be left, top, width and height, in percent")
    corner = (checks.check_number(name, v, 0, 100) for v in rows[:2])
    return (*corner, *(checks.check_number(name, v, 2, 100) for v in rows[2:]))


_KEY = Own(_read_key, str, _declare_line(MAX_KEY_LENGTH, None).schema)
_JOINT = Own(_read_joint, joint_data, lambda: {"type": "object"})
_PLACE = Own(
    _read_place,
    list,
    lambda: {
        "type": "array",
        "minItems": 4,
        "maxItems": 4,
        "items": {"type": "number", "minimum": 0, "maximum": 100},
    },
)


def _declare_keys(label: str, **more: Any) -> Entry:
    return Entry("texts", most=MAX_SEAMS, high=MAX_PART_LENGTH, label=label, **more)


class Seam(Struct, frozen=True):
    """A seam: its key, its joint or the procedure it is welded by, the parts it joins, where it
    lies and how the work is clamped for it, whether it is seen, the seams before it, those it
    hides, and how wide the sheet lies free beside it, mm (None: not told).
    """

    key: Annotated[str, Entry("own", own=_KEY, required=True, missing=NO_KEY, label="Seam")]
    joint: Annotated[
        Joint | None,
        Entry("own", own=_JOINT, label="A joint. Its format and version are optional"),
    ] = None
    procedure: Annotated[
        str | None, Entry("own", own=_declare_line(20, None), label="Procedure")
    ] = None
    called: Annotated[str, Entry("text", high=MAX_TITLE_LENGTH, key="title", label="Name")] = ""
    joins: Annotated[tuple[str, ...], _declare_keys("Joins", required=True)] = ()
    side: Annotated[str, Entry("name", names=list_options(SIDES), label="Side")] = "middle"
    face: Annotated[
        str, Entry("own", own=_declare_line(MAX_FACE_LENGTH, "top"), label="Face up")
    ] = "top"
    seen: Annotated[bool, Entry("flag", label="Visible")] = True
    after: Annotated[tuple[str, ...], _declare_keys("After")] = ()
    hides: Annotated[tuple[str, ...], _declare_keys("Hides")] = ()
    free_mm: Annotated[
        float | None,
        Entry(
            "number", low=5, high=3000, unit="mm", quantity="length", label="Free sheet next to it"
        ),
    ] = None

    def check(self, where: str) -> None:
        """Refuse a seam that goes by a joint and a procedure, or by neither, and one that joins
        nothing. Raises InputError.
        """
        place = f"{where}." if where else ""
        if self.joint is not None and self.procedure:
            rule = "and a joint exclude each other. Give one of them"
            raise InputError(f"{place}procedure", self.procedure, rule)
        if self.joint is None and not self.procedure:
            rule = "is missing. Give a joint, or the number of a procedure"
            raise InputError(f"{place}joint", None, rule)
        if not 1 <= len(self.joins) <= MAX_JOINED:
            rule = f"must name the parts it joins, 1 to {MAX_JOINED}"
            raise InputError(f"{place}joins", ", ".join(self.joins), rule)

    @property
    def title(self) -> str:
        """What it is called, its key where it was not named."""
        return self.called or (self.joint.title if self.joint is not None else "") or self.key


def _declare_mm(low: float, **more: Any) -> Entry:
    return Entry("number", low=low, high=MAX_LENGTH_MM, unit="mm", **more)


class Cut(Struct, frozen=True):
    """A line of a part's cut list: how many, of what, how long and how wide (None: of tube, bar or
    rod) mm.
    """

    count: Annotated[int, Entry("count", low=1, high=10_000)] = 1
    what: Annotated[str, Entry("text", high=MAX_MATERIAL_LENGTH)] = ""
    length_mm: Annotated[float, _declare_mm(1, required=True)] = 0.0
    width_mm: Annotated[float | None, _declare_mm(1)] = None


class Hole(Struct, frozen=True):
    """A hole in a part: how wide, where from its own corner, mm."""

    diameter_mm: Annotated[float, Entry("number", low=0.5, high=500, unit="mm", required=True)]
    x_mm: Annotated[float, _declare_mm(-MAX_LENGTH_MM, required=True)]
    y_mm: Annotated[float, _declare_mm(-MAX_LENGTH_MM, required=True)]


class Part(Struct, frozen=True):
    """What is known of a part besides its name: a note, its cut list, its holes, and where it is
    drawn: left, top, width and height, of 100.
    """

    note: Annotated[str, Entry("text", high=MAX_NOTE_LENGTH)] = ""
    cuts: Annotated[tuple[Cut, ...], Entry("objects", of=Cut, most=MAX_LINES)] = ()
    holes: Annotated[tuple[Hole, ...], Entry("objects", of=Hole, most=MAX_LINES)] = ()
    at: Annotated[tuple[float, float, float, float] | None, Entry("own", own=_PLACE)] = None


def _declare_seconds(label: str) -> Entry:
    return Entry("number", low=0, high=7200, unit="s", label=label)


class Times(Struct, frozen=True):
    """What turning the dial, rebuilding the torch, clamping anew and taking up another piece take,
    s.
    """

    dial_s: Annotated[float, _declare_seconds("Machine setting")] = 60.0
    torch_s: Annotated[float, _declare_seconds("Torch")] = 180.0
    clamp_s: Annotated[float, _declare_seconds("Clamping")] = 240.0
    piece_s: Annotated[float, _declare_seconds("Another piece")] = 30.0


class Job(Struct, frozen=True):
    """A job. about: what is known of parts, by name; order: the seams as a hand has put them, ()
    for as found; first, last: seams pinned there.
    """

    title: Annotated[str, Entry("text", high=MAX_TITLE_LENGTH)] = ""
    quantity: Annotated[int, Entry("count", low=1, high=MAX_PIECES)] = 1
    parts: Annotated[tuple[str, ...], Entry("texts", most=MAX_PARTS, high=MAX_PART_LENGTH)] = ()
    seams: Annotated[tuple[Seam, ...], Entry("objects", of=Seam, most=MAX_SEAMS)] = ()
    times: Annotated[Times, Entry("object", of=Times)] = Times()
    balance_s: Annotated[float, _declare_seconds("One step of lead on one side")] = 30.0
    about: Annotated[Mapping[str, Part], Entry("by-name", of=Part)] = NO_PARTS
    order: Annotated[tuple[str, ...], _declare_keys("Order")] = ()
    first: Annotated[str, Entry("text", high=MAX_KEY_LENGTH)] = ""
    last: Annotated[str, Entry("text", high=MAX_KEY_LENGTH)] = ""

    def seam(self, key: str) -> Seam:
        """A seam by its key. Raises KeyError."""
        return next(s for s in self.seams if s.key == key)

    def check(self, _where: str) -> None:
        """Refuse names that stand twice or lead nowhere, and what no order can hold. Raises
        BadInput.
        """
        keys = [seam.key for seam in self.seams]
        for i, seam in enumerate(self.seams):
            if (first := keys.index(seam.key)) < i:
                rule = f"is also the key of seams[{first}]. Give each seam its own key"
                raise InputError(f"seams[{i}].key", seam.key, rule)
            for part in seam.joins:
                checks.name(f"seams[{i}].joins", part, self.parts)
            for name, others in (("after", seam.after), ("hides", seam.hides)):
                for key in others:
                    checks.name(f"seams[{i}].{name}", key, keys)
        for name in self.about:
            checks.name("about", name, self.parts)
        for key in self.order:
            checks.name("order", key, keys)
        if self.order and len(self.order) < len(keys):
            raise InputError("order", ",".join(self.order), "must name every seam once")
        for name, pinned in (("first", self.first), ("last", self.last)):
            if pinned:
                checks.name(name, pinned, keys)
        check_precedence(self)

    @property
    def unjoined(self) -> tuple[str, ...]:
        """The parts that no seam joins."""
        joined = {part for seam in self.seams for part in seam.joins}
        return tuple(part for part in self.parts if part not in joined)


class Before(Struct, frozen=True):
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
        return f"{self.one} must be before {self.other}"


def list_precedence(job: Job) -> tuple[Before, ...]:
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


def find_circle(pairs: Iterable[Before]) -> list[str]:
    """The seams of a circle among what must come before what, in order and closed; [] where there
    is none.

    >>> find_circle([Before("a", "b", "after"), Before("b", "a", "hides")])
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
    """Refuse what no order can hold. Raises InputError naming the seams."""
    for i, seam in enumerate(job.seams):
        for name, keys in (("after", seam.after), ("hides", seam.hides)):
            if seam.key in keys:
                words = "hides itself" if name == "hides" else "comes after itself"
                raise InputError(
                    f"seams[{i}].{name}",
                    seam.key,
                    f"{words}. Remove {seam.key} from its “{name}”",
                )
    pairs = list_precedence(job)
    if found := find_circle(pairs):
        said = " before ".join(found)
        why = [p.why for p in pairs if (p.one, p.other) in set(pairwise(found))]
        how = (
            "remove one of the pins or “after” entries"
            if {"first", "last"} & set(why)
            else "remove one of the “after” or “hides” entries"
        )
        raise InputError("seams", " ".join(found), f"form a circle: {said}; {how}")


MAX_RUN_NAME_LENGTH = 80
_RUN_NAME = re.compile(r"(?P<number>[0-9]{1,9}):(?P<seam>.{1,80})/(?P<piece>[0-9]{1,6})")


def run_named(number: int, seam: str, piece: int) -> str:
    """Name a run of a job.

    Args:
        number: Number of the job.
        seam: Key of the seam.
        piece: Number of the piece.

    >>> run_named(3, "c1", 2)
    '3:c1/2'
    """
    return f"{number}:{seam}/{piece}"


def read_run_name(name: str) -> tuple[int, str, int]:
    """Read the name of a run of a job.

    Args:
        name: The name.

    Returns:
        Number of the job, key of the seam, number of the piece.

    Raises:
        BadInput: The name is not valid.

    >>> read_run_name("3:c1/2")
    (3, 'c1', 2)
    """
    found = _RUN_NAME.fullmatch(name)
    if found is None:
        raise InputError(
            "job", name, "must be a run of a job, for example 3:c1/2; open the run from its job"
        )
    return int(found["number"]), found["seam"], int(found["piece"])
