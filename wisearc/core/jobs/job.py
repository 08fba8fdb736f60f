"""A job as entered: parts, seams that join them, precedence and hidden seams."""

import re
from collections import Counter
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
# A larger assembly is welded in sub-assemblies, each a separate job.
MAX_SEAMS, MAX_PARTS, MAX_JOINED, MAX_PIECES = 200, 120, 4, 500
# The sections of a seam, and those of all seams: a search compares all of them.
MAX_SECTIONS, MAX_STEPS = 20, 400
MAX_LINES, MAX_MATERIAL_LENGTH = 60, 48
MAX_LENGTH_MM = 20_000.0
NO_KEY = "is missing. Give each seam a short key such as c1"


def _read_key(name: str, value: Any) -> str:
    key = checks.check_line(name, value, MAX_KEY_LENGTH).strip()
    if not key:
        raise InputError(name, key, NO_KEY)
    if "," in key or " " in key:
        rule = "must be one word without a comma, because sequences separate keys by commas"
        raise InputError(name, key, rule)
    return key


def _read_joint(name: str, value: Any) -> Joint:
    data = {
        k: v for k, v in checks.check_mapping(name, value).items() if k not in ("format", "version")
    }
    try:
        return make_joint(data)
    except InputError as error:
        raise InputError(f"{name}.{error.field}", error.value, error.rule) from error


def _declare_line(maximum: int, empty: str | None) -> Own:
    """Declare one line of text, without spaces at the ends.

    `empty` is the value for no text.
    """
    return Own(
        lambda name, value: checks.check_line(name, value, maximum).strip() or empty,
        lambda value: value,
        lambda: {"type": "string", "maxLength": maximum, "pattern": f"^{checks.LINE}$"},
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
    """A seam.

    Key, joint or procedure, joined parts, position, clamping, visibility, preceding seams, hidden
    seams, and free sheet width next to it, mm (None: unknown). `pieces`: number of sections that
    are welded by turns with other seams.
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
    cool_s: Annotated[
        float | None,
        Entry("number", low=0, high=7200, unit="s", label="Wait to the interpass limit"),
    ] = None
    mean_end_c: Annotated[
        float | None,
        Entry("number", low=0, high=1500, unit="°C", label="Mean temperature at its end"),
    ] = None
    pieces: Annotated[
        int, Entry("count", low=1, high=MAX_SECTIONS, label="Sections welded by turns")
    ] = 1

    def check(self, where: str) -> None:
        """Check that a seam has either a joint or a procedure, and joins parts.

        Args:
            where: Key of the seam for the error.

        Raises:
            InputError: The seam is wrong.
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
        """Return the title, or the key without one."""
        return self.called or (self.joint.title if self.joint is not None else "") or self.key


def _declare_mm(low: float, **more: Any) -> Entry:
    return Entry("number", low=low, high=MAX_LENGTH_MM, unit="mm", **more)


class Cut(Struct, frozen=True):
    """A line of a cut list: count, material, length and width (None for tube, bar and rod), mm."""

    count: Annotated[int, Entry("count", low=1, high=10_000)] = 1
    what: Annotated[str, Entry("text", high=MAX_MATERIAL_LENGTH)] = ""
    length_mm: Annotated[float, _declare_mm(1, required=True)] = 0.0
    width_mm: Annotated[float | None, _declare_mm(1)] = None


class Hole(Struct, frozen=True):
    """A hole in a part: diameter and position from the corner of the part, mm."""

    diameter_mm: Annotated[float, Entry("number", low=0.5, high=500, unit="mm", required=True)]
    x_mm: Annotated[float, _declare_mm(-MAX_LENGTH_MM, required=True)]
    y_mm: Annotated[float, _declare_mm(-MAX_LENGTH_MM, required=True)]


class Part(Struct, frozen=True):
    """Data of a part.

    Note, cut list, holes, and its rectangle in the drawing (left, top, width and height, of 100).
    """

    note: Annotated[str, Entry("text", high=MAX_NOTE_LENGTH)] = ""
    cuts: Annotated[tuple[Cut, ...], Entry("objects", of=Cut, most=MAX_LINES)] = ()
    holes: Annotated[tuple[Hole, ...], Entry("objects", of=Hole, most=MAX_LINES)] = ()
    at: Annotated[tuple[float, float, float, float] | None, Entry("own", own=_PLACE)] = None


def _declare_seconds(label: str) -> Entry:
    return Entry("number", low=0, high=7200, unit="s", label=label)


class Times(Struct, frozen=True):
    """Times for a machine setting, a torch rebuild, a new clamping, the next piece, a check, s."""

    dial_s: Annotated[float, _declare_seconds("Machine setting")] = 60.0
    torch_s: Annotated[float, _declare_seconds("Torch")] = 180.0
    clamp_s: Annotated[float, _declare_seconds("Clamping")] = 240.0
    piece_s: Annotated[float, _declare_seconds("Another piece")] = 30.0
    check_s: Annotated[float, _declare_seconds("Check for square")] = 120.0


class Job(Struct, frozen=True):
    """A job.

    `about` has the data of parts by name. `order` is the manual order of the seams, () without one,
    with a seam once for each of its sections. `first` and `last` are fixed seams. `tack_up`: the
    assembly is tacked before any weld. `one_torch`: the same torch for all seams. `same_dial`: one
    setting for seams whose allowed ranges permit it.
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
    tack_up: Annotated[bool, Entry("flag", label="Tack the assembly first")] = False
    one_torch: Annotated[bool, Entry("flag", label="Same torch throughout")] = False
    same_dial: Annotated[bool, Entry("flag", label="Same setting where sound")] = False

    def seam(self, key: str) -> Seam:
        """Return a seam by its key.

        Raises:
            KeyError: The job has no such seam.
        """
        return next(s for s in self.seams if s.key == key)

    def check(self, _where: str) -> None:
        """Check names and precedence.

        Raises:
            InputError: A name is repeated or unknown, or no order is possible.
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
        sections = [seam.key for seam in self.seams for _ in range(seam.pieces)]
        if len(sections) > MAX_STEPS:
            rule = f"must not have more than {MAX_STEPS} sections together. Use fewer sections"
            raise InputError("seams", f"{len(sections)} sections", rule)
        if self.order and sorted(self.order) != sorted(sections):
            rule = "must name every seam once for each of its sections"
            raise InputError("order", ",".join(self.order), rule)
        for name, pinned in (("first", self.first), ("last", self.last)):
            if pinned:
                checks.name(name, pinned, keys)
        check_precedence(self)

    @property
    def unjoined(self) -> tuple[str, ...]:
        """Return the parts that no seam joins."""
        joined = {part for seam in self.seams for part in seam.joins}
        return tuple(part for part in self.parts if part not in joined)


def name_sections(job: Job, order: Iterable[str]) -> tuple[str, ...]:
    """Return the name of each step of an order: the key, or with sections the key and a number.

    Args:
        job: The job.
        order: Seams in order, one for each of its sections.

    >>> job = Job(parts=("a",), seams=(Seam("c1", procedure="P-0001", joins=("a",), pieces=2),))
    >>> name_sections(job, ["c1", "c1"])
    ('c1/1', 'c1/2')
    """
    sections = {seam.key: seam.pieces for seam in job.seams}
    count: Counter[str] = Counter()
    names = []
    for key in order:
        count[key] += 1
        names.append(key if sections.get(key, 1) == 1 else f"{key}/{count[key]}")
    return tuple(names)


def find_section_key(job: Job, name: str) -> str:
    """Return the seam of a step name.

    Args:
        job: The job.
        name: A name from `name_sections`.
    """
    if any(seam.key == name for seam in job.seams):
        return name
    return name.rpartition("/")[0] or name


def find_section_keys(job: Job, names: Iterable[str]) -> tuple[str, ...]:
    """Return the seams of step names, in the same order.

    Args:
        job: The job.
        names: Names from `name_sections`.
    """
    return tuple(find_section_key(job, name) for name in names)


class Before(Struct, frozen=True):
    """A precedence between two seams, with its reason.

    "after" (entered), "hides", "first" or "last".
    """

    one: str
    other: str
    why: str

    @property
    def words(self) -> str:
        """Return the rule as a sentence."""
        if self.why == "hides":
            return f"{self.one} is hidden by {self.other}, so it comes first"
        if self.why == "first":
            return f"{self.one} is pinned first"
        if self.why == "last":
            return f"{self.other} is pinned last"
        return f"{self.one} must be before {self.other}"


def list_precedence(job: Job) -> tuple[Before, ...]:
    """Return all precedences: entered, hidden and fixed."""
    pairs = []
    for seam in job.seams:
        pairs += [Before(key, seam.key, "after") for key in seam.after]
        pairs += [Before(key, seam.key, "hides") for key in seam.hides]
    keys = [seam.key for seam in job.seams]
    if job.first:
        pairs += [Before(job.first, key, "first") for key in keys if key != job.first]
    if job.last:
        pairs += [Before(key, job.last, "last") for key in keys if key != job.last]
    return tuple(pairs)


def find_circle(pairs: Iterable[Before]) -> list[str]:
    """Return the seams of a precedence circle, in order and closed, or [].

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
    """Check that the precedences allow an order.

    Raises:
        InputError: They form a circle. The error names the seams.
    """
    for i, seam in enumerate(job.seams):
        for name, keys in (("after", seam.after), ("hides", seam.hides)):
            if seam.key in keys:
                wording = "hides itself" if name == "hides" else "comes after itself"
                raise InputError(
                    f"seams[{i}].{name}",
                    seam.key,
                    f"{wording}. Remove {seam.key} from its “{name}”",
                )
    pairs = list_precedence(job)
    if circle := find_circle(pairs):
        text = " before ".join(circle)
        why = [p.why for p in pairs if (p.one, p.other) in set(pairwise(circle))]
        how = (
            "remove one of the pins or “after” entries"
            if {"first", "last"} & set(why)
            else "remove one of the “after” or “hides” entries"
        )
        raise InputError("seams", " ".join(circle), f"form a circle: {text}; {how}")


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
        InputError: The name is not valid.

    >>> read_run_name("3:c1/2")
    (3, 'c1', 2)
    """
    match = _RUN_NAME.fullmatch(name)
    if match is None:
        raise InputError(
            "job", name, "must be a run of a job, for example 3:c1/2; open the run from its job"
        )
    return int(match["number"]), match["seam"], int(match["piece"])
