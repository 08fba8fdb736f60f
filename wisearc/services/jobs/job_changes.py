"""Changes of a job.

Each is a document with a text, which can be applied again after other changes, and compared with a
change of another person.
"""

from collections.abc import Callable, Iterable, Mapping
from collections.abc import Set as AbstractSet
from typing import Annotated, Any, ClassVar, Self, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.jobs.job import (
    Job,
    Part,
    Seam,
    find_section_key,
    find_section_keys,
    name_sections,
)
from ...core.jobs.job_data import job_data, make_job
from ...core.jobs.job_plan import move_seam
from ...core.schema import checks
from ...core.schema.documents import read_document, read_value, write_document
from ...core.schema.entries import Entry, Own, read_attributes, read_defaults, read_entries
from ...core.schema.json_types import Json, JsonObject

T = TypeVar("T")
# Labels of fields of a seam or the head, if different from their keys.
_FIELDS = {
    "joins": "joins",
    "free_mm": "free sheet",
    "balance_s": "lead on one side",
    "joint": "its joint",
}
_VALUES = Own(checks.check_mapping, dict, lambda: {"type": "object"})
MAX_NEW_SEAMS = 200


def _read_rows(name: str, value: Any) -> tuple[JsonObject, ...]:
    rows = checks.check_rows(name, value, MAX_NEW_SEAMS)
    return tuple(checks.check_mapping(f"{name}[{i}]", row) for i, row in enumerate(rows))


_ROWS = Own(
    _read_rows,
    lambda rows: [dict(row) for row in rows],
    lambda: {"type": "array", "items": {"type": "object"}},
)
_NAME = 200


def _name(key: str = "") -> Entry:
    return Entry("text", required=True, high=_NAME, key=key)


class Change(Struct, frozen=True):
    """A change of a job."""

    kind: ClassVar[str]

    def applied(self, job: Job, displayed: tuple[str, ...]) -> Job:
        """Return a job with the change.

        Args:
            job: The job.
            displayed: The displayed order.

        Raises:
            InputError: The seam or part is missing, or the result is no valid job.
        """
        raise NotImplementedError

    def describe(self) -> str:
        """Return the text of the change."""
        raise NotImplementedError

    def subjects(self) -> list[str]:
        """Return the changed things.

        Two changes of one thing are in conflict.
        """
        return []

    def differing(self, _base: Job) -> Self | None:
        """Return the part of the change that differs from the job on its page, or None."""
        return self


def apply_change(change: Change, job: Job, displayed: tuple[str, ...] = ()) -> Job:
    """Return a job with a change.

    A manual order loses removed seams, and new ones are added at its end.

    Args:
        change: The change.
        job: The job.
        displayed: The displayed order.

    Raises:
        InputError: The change is not possible.
    """
    applied = change.applied(job, displayed)
    applied = replace(applied, order=_complete_order(applied))
    applied.check("")
    return applied


def _complete_order(job: Job) -> tuple[str, ...]:
    """Return the manual order with each seam once for each of its sections."""
    if not job.order:
        return ()
    left = {seam.key: seam.pieces for seam in job.seams}
    order = []
    for key in job.order:
        if left.get(key, 0):
            left[key] -= 1
            order.append(key)
    return (*order, *(key for key, count in left.items() for _ in range(count)))


def _with(document: T, values: JsonObject) -> T:
    """Return a document with other values.

    Raises:
        InputError: A value is wrong.
    """
    data = write_document(document, with_defaults=True)
    return read_document(type(document), {**data, **values})


def _list_differing(document: object, values: JsonObject) -> dict[str, Json]:
    """Return the values that differ from a document.

    Raises:
        InputError: A value is wrong.
    """
    of = type(document)
    table, names = read_entries(of), read_attributes(of)

    def same(key: str, value: Json) -> bool:
        if key not in table:
            return False
        usual = read_defaults(of).get(key)
        read = usual if value is None else read_value(table[key], value, key)
        return bool(read == getattr(document, names[key]))

    return {key: value for key, value in values.items() if not same(key, value)}


def _format_values(values: JsonObject) -> str:
    return ", ".join(f"{_FIELDS.get(k, k)} {_format_value(k, v)}" for k, v in values.items())


def _format_value(key: str, value: Json) -> str:
    # A length has the unit of the reader, on the page itself.
    if isinstance(value, Mapping) or (key.endswith("_mm") and value is not None):
        return "changed"
    if isinstance(value, list):
        return ", ".join(map(str, value)) or "none"
    if value is None or isinstance(value, bool):
        return {True: "yes", False: "no", None: "none"}[value]
    return str(value)


def _find_seam(job: Job, key: str) -> Seam:
    for seam in job.seams:
        if seam.key == key:
            return seam
    raise InputError("seam", key, "is no longer in this job. Someone removed it")


def _check_part(job: Job, name: str) -> None:
    if name not in job.parts:
        raise InputError("part", name, "is no longer in this job. Someone removed it")


def _list_seams(job: Job, change_seam: Callable[[Seam], Seam]) -> tuple[Seam, ...]:
    return tuple(change_seam(seam) for seam in job.seams)


def _rename_keys(keys: Iterable[str], old: str, new: str) -> tuple[str, ...]:
    return tuple(new if key == old else key for key in keys)


class SetSeam(Change, frozen=True):
    """A change of fields of a seam, by their keys in a file."""

    kind = "seam"
    key: Annotated[str, _name()]
    values: Annotated[JsonObject, Entry("own", own=_VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the changed seam."""
        values = dict(self.values)
        # A seam has either a joint or a procedure, even if another person set the other one.
        for field, other in (("joint", "procedure"), ("procedure", "joint")):
            if values.get(field):
                values[other] = None
        old, seam = self.key, _with(_find_seam(job, self.key), values)
        new = seam.key

        def seen(changed_seam: Seam) -> Seam:
            if changed_seam.key == old:
                return seam
            after, hides = (
                _rename_keys(changed_seam.after, old, new),
                _rename_keys(changed_seam.hides, old, new),
            )
            return replace(changed_seam, after=after, hides=hides)

        first, last = _rename_keys((job.first, job.last), old, new)
        order = _rename_keys(job.order, old, new)
        return replace(job, seams=_list_seams(job, seen), order=order, first=first, last=last)

    def describe(self) -> str:
        """Return the text of the change."""
        return f"{self.key}: {_format_values(self.values)}"

    def subjects(self) -> list[str]:
        """Return the changed fields."""
        return [f"seam:{self.key}:{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        """Return the fields that differ."""
        displayed = next((seam for seam in base.seams if seam.key == self.key), None)
        values = self.values if displayed is None else _list_differing(displayed, self.values)
        return replace(self, values=values) if values else None


class SetWaits(Change, frozen=True):
    """The waits of seams and their mean temperatures, from the field of heat; None removes them."""

    kind = "waits"
    waits: Annotated[JsonObject, Entry("own", own=_VALUES, required=True)]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the waits: {key: [wait s, mean °C]}."""

        def cooled(seam: Seam) -> Seam:
            if seam.key not in self.waits:
                return seam
            row = self.waits[seam.key]
            wait, mean = row if isinstance(row, list | tuple) else (None, None)
            return _with(seam, {"cool_s": wait, "mean_end_c": mean})

        return replace(job, seams=_list_seams(job, cooled))

    def describe(self) -> str:
        """Return the text of the change."""
        if not any(self.waits.values()):
            return "waits of the plans used"
        return "waits of the field of heat used"

    def subjects(self) -> list[str]:
        """Return the changed fields."""
        return [f"seam:{key}:cool_s" for key in self.waits]


class AddSeam(Change, frozen=True):
    """A new seam, with its new parts."""

    kind = "add-seam"
    seam: Annotated[JsonObject, Entry("own", own=_VALUES, required=True)]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the seam."""
        seam = read_document(Seam, self.seam)
        parts = dict.fromkeys((*job.parts, *seam.joins))
        return replace(job, seams=(*job.seams, seam), parts=tuple(parts))

    def describe(self) -> str:
        """Return the text of the change."""
        return f"seam {self.seam.get('key', '')} added"


class AddSeams(Change, frozen=True):
    """New seams, with their new parts. A part is closed before others are put on it."""

    kind = "add-seams"
    seams: Annotated[tuple[JsonObject, ...], Entry("own", own=_ROWS, required=True)]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the seams."""
        for data in self.seams:
            job = AddSeam(data).applied(job, ())
        new = {str(data.get("key")) for data in self.seams}
        return replace(job, seams=_close_parts_first(job.seams, new))

    def describe(self) -> str:
        """Return the text of the change."""
        keys = [str(data.get("key", "")) for data in self.seams]
        if len(keys) == 1:
            return f"seam {keys[0]} added"
        return f"{len(keys)} seams added, {keys[0]} to {keys[-1]}"


def _close_parts_first(seams: tuple[Seam, ...], new: AbstractSet[str]) -> tuple[Seam, ...]:
    """Return the seams with the rule that a part is closed before others are put on it.

    A seam of a single part closes it. The rule is an entry "after", which a person can remove.

    Args:
        seams: All seams.
        new: The keys of the new ones. Between others nothing changes.
    """
    before = {seam.key: seam.after for seam in seams}
    closing = [seam for seam in seams if len(set(seam.joins)) == 1]
    changed = []
    for seam in seams:
        keys = [
            close.key
            for close in closing
            if len(set(seam.joins)) > 1
            and close.joins[0] in seam.joins
            and new & {seam.key, close.key}
            and close.key not in seam.after
            and seam.key not in _find_predecessors(close.key, before)
        ]
        changed.append(replace(seam, after=(*seam.after, *keys)) if keys else seam)
    return tuple(changed)


def _find_predecessors(key: str, before: Mapping[str, tuple[str, ...]]) -> set[str]:
    """Return the seams that come before a seam by its entries, directly or through others."""
    predecessors: set[str] = set()
    left = [key]
    while left:
        for other in before.get(left.pop(), ()):
            if other not in predecessors:
                predecessors.add(other)
                left.append(other)
    return predecessors


class DropSeam(Change, frozen=True):
    """A removed seam."""

    kind = "drop-seam"
    key: Annotated[str, _name()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job without the seam."""
        removed_key = _find_seam(job, self.key).key

        def without(keys: tuple[str, ...]) -> tuple[str, ...]:
            return tuple(key for key in keys if key != removed_key)

        left = [seam for seam in job.seams if seam.key != removed_key]
        seams = tuple(
            replace(seam, after=without(seam.after), hides=without(seam.hides)) for seam in left
        )
        first, last = ("" if key == removed_key else key for key in (job.first, job.last))
        return replace(job, seams=seams, first=first, last=last)

    def describe(self) -> str:
        """Return the text of the change."""
        return f"seam {self.key} removed"


class SetPart(Change, frozen=True):
    """A change of fields of a part, by their keys in a file."""

    kind = "part"
    name: Annotated[str, _name()]
    values: Annotated[JsonObject, Entry("own", own=_VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the changed part."""
        _check_part(job, self.name)
        part = _with(job.about.get(self.name, Part()), self.values)
        return replace(job, about={**job.about, self.name: part})

    def describe(self) -> str:
        """Return the text of the change."""
        return f"part {self.name} changed"

    def subjects(self) -> list[str]:
        """Return the changed fields."""
        return [f"part:{self.name}:{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        """Return the fields that differ."""
        values = _list_differing(base.about.get(self.name, Part()), self.values)
        return replace(self, values=values) if values else None


class AddPart(Change, frozen=True):
    """A new part."""

    kind = "add-part"
    name: Annotated[str, _name()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the part."""
        return make_job({**job_data(job), "parts": [*job.parts, self.name]})

    def describe(self) -> str:
        """Return the text of the change."""
        return f"part {self.name} added"


class DropPart(Change, frozen=True):
    """A removed part, without seams."""

    kind = "drop-part"
    name: Annotated[str, _name()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job without the part."""
        _check_part(job, self.name)
        if joined := ", ".join(seam.key for seam in job.seams if self.name in seam.joins):
            rule = f"belongs to {joined}. Remove those seams first, or join them to another part"
            raise InputError("part", self.name, rule)
        about = {name: part for name, part in job.about.items() if name != self.name}
        return replace(job, parts=tuple(p for p in job.parts if p != self.name), about=about)

    def describe(self) -> str:
        """Return the text of the change."""
        return f"part {self.name} removed"


class RenamePart(Change, frozen=True):
    """A renamed part."""

    kind = "rename-part"
    name: Annotated[str, _name()]
    to: Annotated[str, _name()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the renamed part."""
        old, new = self.name, self.to
        _check_part(job, old)
        seams = _list_seams(
            job, lambda seam: replace(seam, joins=_rename_keys(seam.joins, old, new))
        )
        about = {new if name == old else name: part for name, part in job.about.items()}
        renamed = replace(job, parts=_rename_keys(job.parts, old, new), seams=seams, about=about)
        return make_job(job_data(renamed))

    def describe(self) -> str:
        """Return the text of the change."""
        return f"{self.name} renamed {self.to}"


class SetHead(Change, frozen=True):
    """A change of title, quantity and times of a job, by their keys in a file."""

    kind = "head"
    values: Annotated[JsonObject, Entry("own", own=_VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the changed head."""
        return make_job({**job_data(job), **self.values})

    def describe(self) -> str:
        """Return the text of the change."""
        return _format_values(self.values)

    def subjects(self) -> list[str]:
        """Return the changed fields."""
        return [f"head::{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        """Return the fields that differ."""
        values = _list_differing(base, self.values)
        return replace(self, values=values) if values else None


class Move(Change, frozen=True):
    """A seam moved to a place in the order, from 0."""

    kind = "move"
    key: Annotated[str, _name()]
    to: Annotated[int, Entry("count", required=True, high=1e6)]

    def applied(self, job: Job, displayed: tuple[str, ...]) -> Job:
        """Return a job with the changed order."""
        _find_seam(job, find_section_key(job, self.key))
        order = job.order or find_section_keys(job, displayed)
        names = move_seam(name_sections(job, order), self.key, self.to)
        return replace(job, order=find_section_keys(job, names))

    def describe(self) -> str:
        """Return the text of the change."""
        return f"{self.key} moved to place {self.to + 1}"

    def subjects(self) -> list[str]:
        """Return the changed thing: the order."""
        return [f"move:{self.key}"]


class Pin(Change, frozen=True):
    """A seam fixed as "first" or "last", or "" for no longer."""

    kind = "pin"
    key: Annotated[str, _name()]
    at: Annotated[str, Entry("text", high=10)] = ""

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the fixed seam."""
        key = _find_seam(job, self.key).key
        first, last = ("" if pinned == key else pinned for pinned in (job.first, job.last))
        if not self.at:
            return replace(job, first=first, last=last)
        ahead = self.at == "first"
        others = tuple(other for other in job.order if other != key)
        mine = (key,) * (len(job.order) - len(others))
        order = (*mine[:1], *others, *mine[1:]) if ahead else (*others, *mine)
        return replace(job, order=order, first=key if ahead else first, last=last if ahead else key)

    def describe(self) -> str:
        """Return the text of the change."""
        return f"{self.key} pinned {self.at}" if self.at else f"{self.key} unpinned"

    def subjects(self) -> list[str]:
        """Return the changed thing: the fixed position."""
        return [f"pin:{self.key}"]


class SetOrder(Change, frozen=True):
    """A manual order, or () for the calculated one."""

    kind = "order"
    order: Annotated[tuple[str, ...], Entry("texts", most=1000, high=_NAME)] = ()

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the order."""
        return replace(job, order=find_section_keys(job, self.order))

    def describe(self) -> str:
        """Return the text of the change."""
        return "a sequence set manually" if self.order else "the proposed sequence is now used"

    def subjects(self) -> list[str]:
        """Return the changed thing: the order."""
        return ["order:"]


_KINDS: Mapping[str, type[Change]] = {
    of.kind: of
    for of in (
        SetSeam,
        AddSeam,
        AddSeams,
        DropSeam,
        SetWaits,
        SetPart,
        AddPart,
        DropPart,
        RenamePart,
        SetHead,
        Move,
        Pin,
        SetOrder,
    )
}


def read_change(data: JsonObject) -> Change:
    """Return a change from its data.

    Raises:
        InputError: The data is wrong.
    """
    of = _KINDS[checks.name("do", data.get("do"), _KINDS)]
    return read_document(of, {k: v for k, v in data.items() if k != "do"}, document="a change")


def change_data(change: Change) -> dict[str, Json]:
    """Return the data of a change."""
    return {"do": change.kind, **write_document(change, with_defaults=True)}
