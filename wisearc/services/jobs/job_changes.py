"""What is changed of a job: each change as a document that can be told, made again on a job that
was changed meanwhile, and held against another's.
"""

from collections.abc import Callable, Iterable, Mapping
from typing import Annotated, ClassVar, Self, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.jobs.job import Job, Part, Seam
from ...core.jobs.job_data import job_data, make_job
from ...core.jobs.job_plan import move_seam
from ...core.schema import checks
from ...core.schema.documents import read_document, read_value, write_document
from ...core.schema.entries import Entry, Own, read_attributes, read_defaults, read_entries
from ...core.schema.json_types import Json, JsonObject

T = TypeVar("T")
# how what is set of a seam or the head is called where its key does not say it
_FIELDS = {
    "joins": "joins",
    "free_mm": "free sheet",
    "balance_s": "lead on one side",
    "joint": "its joint",
}
_VALUES = Own(checks.check_mapping, dict, lambda: {"type": "object"})
_NAME = 200


def _name(key: str = "") -> Entry:
    return Entry("text", required=True, high=_NAME, key=key)


class Change(Struct, frozen=True):
    """A change of a job."""

    kind: ClassVar[str]

    def applied(self, job: Job, shown: tuple[str, ...]) -> Job:
        """A job with the change made. Parameters: shown, the order as it is shown now. Raises
        InputError where the seam or part is gone, or that is no job.
        """
        raise NotImplementedError

    def words(self) -> str:
        """The change in words."""
        raise NotImplementedError

    def subjects(self) -> list[str]:
        """What it is of: two changes of one thing go against each other."""
        return []

    def differing(self, _base: Job) -> Self | None:
        """What of it differs from the job as its page showed it, None for nothing."""
        return self


def apply_change(change: Change, job: Job, shown: tuple[str, ...] = ()) -> Job:
    """A job with a change made; an order by hand then names the seams that there are: those taken
    out go, those added come last. Raises InputError.
    """
    found = change.applied(job, shown)
    keys = [seam.key for seam in found.seams]
    order = [key for key in found.order if key in keys]
    whole = (*order, *(key for key in keys if key not in order)) if order else ()
    found = replace(found, order=whole)
    found.check("")
    return found


def _with(document: T, values: JsonObject) -> T:
    """A document with values of it in the place of its own. Raises InputError."""
    whole = write_document(document, whole=True)
    return read_document(type(document), {**whole, **values})


def _list_differing(document: object, values: JsonObject) -> dict[str, Json]:
    """The values that are not as a document has them. Raises InputError."""
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
    # a length is told in the unit of who looks, on the page itself
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


def _list_seams(job: Job, seen: Callable[[Seam], Seam]) -> tuple[Seam, ...]:
    return tuple(seen(seam) for seam in job.seams)


def _rename_keys(keys: Iterable[str], old: str, new: str) -> tuple[str, ...]:
    return tuple(new if key == old else key for key in keys)


class SetSeam(Change, frozen=True):
    """Fields of a seam, by their keys in a file."""

    kind = "seam"
    key: Annotated[str, _name()]
    values: Annotated[JsonObject, Entry("own", own=_VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        values = dict(self.values)
        # it goes by the one or the other, whatever another set meanwhile
        for given, other in (("joint", "procedure"), ("procedure", "joint")):
            if values.get(given):
                values[other] = None
        old, seam = self.key, _with(_find_seam(job, self.key), values)
        new = seam.key

        def seen(one: Seam) -> Seam:
            if one.key == old:
                return seam
            after, hides = _rename_keys(one.after, old, new), _rename_keys(one.hides, old, new)
            return replace(one, after=after, hides=hides)

        first, last = _rename_keys((job.first, job.last), old, new)
        order = _rename_keys(job.order, old, new)
        return replace(job, seams=_list_seams(job, seen), order=order, first=first, last=last)

    def words(self) -> str:
        return f"{self.key}: {_format_values(self.values)}"

    def subjects(self) -> list[str]:
        return [f"seam:{self.key}:{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        shown = next((seam for seam in base.seams if seam.key == self.key), None)
        values = self.values if shown is None else _list_differing(shown, self.values)
        return replace(self, values=values) if values else None


class AddSeam(Change, frozen=True):
    """A seam more; parts that it joins and that there are not yet come with it."""

    kind = "add-seam"
    seam: Annotated[JsonObject, Entry("own", own=_VALUES, required=True)]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        seam = read_document(Seam, self.seam)
        parts = dict.fromkeys((*job.parts, *seam.joins))
        return replace(job, seams=(*job.seams, seam), parts=tuple(parts))

    def words(self) -> str:
        return f"seam {self.seam.get('key', '')} added"


class DropSeam(Change, frozen=True):
    """A seam taken out."""

    kind = "drop-seam"
    key: Annotated[str, _name()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        gone = _find_seam(job, self.key).key

        def without(keys: tuple[str, ...]) -> tuple[str, ...]:
            return tuple(key for key in keys if key != gone)

        left = [seam for seam in job.seams if seam.key != gone]
        seams = tuple(
            replace(one, after=without(one.after), hides=without(one.hides)) for one in left
        )
        first, last = ("" if key == gone else key for key in (job.first, job.last))
        return replace(job, seams=seams, first=first, last=last)

    def words(self) -> str:
        return f"seam {self.key} removed"


class SetPart(Change, frozen=True):
    """Fields of a part, by their keys in a file."""

    kind = "part"
    name: Annotated[str, _name()]
    values: Annotated[JsonObject, Entry("own", own=_VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        _check_part(job, self.name)
        part = _with(job.about.get(self.name, Part()), self.values)
        return replace(job, about={**job.about, self.name: part})

    def words(self) -> str:
        return f"part {self.name} changed"

    def subjects(self) -> list[str]:
        return [f"part:{self.name}:{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        values = _list_differing(base.about.get(self.name, Part()), self.values)
        return replace(self, values=values) if values else None


class AddPart(Change, frozen=True):
    """A part more."""

    kind = "add-part"
    name: Annotated[str, _name()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        return make_job({**job_data(job), "parts": [*job.parts, self.name]})

    def words(self) -> str:
        return f"part {self.name} added"


class DropPart(Change, frozen=True):
    """A part taken out, which no seam may join."""

    kind = "drop-part"
    name: Annotated[str, _name()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        _check_part(job, self.name)
        if joined := ", ".join(seam.key for seam in job.seams if self.name in seam.joins):
            rule = f"belongs to {joined}. Remove those seams first, or join them to another part"
            raise InputError("part", self.name, rule)
        about = {name: part for name, part in job.about.items() if name != self.name}
        return replace(job, parts=tuple(p for p in job.parts if p != self.name), about=about)

    def words(self) -> str:
        return f"part {self.name} removed"


class RenamePart(Change, frozen=True):
    """A part under another name."""

    kind = "rename-part"
    name: Annotated[str, _name()]
    to: Annotated[str, _name()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        old, new = self.name, self.to
        _check_part(job, old)
        seams = _list_seams(job, lambda one: replace(one, joins=_rename_keys(one.joins, old, new)))
        about = {new if name == old else name: part for name, part in job.about.items()}
        renamed = replace(job, parts=_rename_keys(job.parts, old, new), seams=seams, about=about)
        return make_job(job_data(renamed))

    def words(self) -> str:
        return f"{self.name} renamed {self.to}"


class SetHead(Change, frozen=True):
    """Title, quantity and times of a job, by their keys in a file."""

    kind = "head"
    values: Annotated[JsonObject, Entry("own", own=_VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        return make_job({**job_data(job), **self.values})

    def words(self) -> str:
        return _format_values(self.values)

    def subjects(self) -> list[str]:
        return [f"head::{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        values = _list_differing(base, self.values)
        return replace(self, values=values) if values else None


class Move(Change, frozen=True):
    """A seam put elsewhere in the order, at a place from 0."""

    kind = "move"
    key: Annotated[str, _name()]
    to: Annotated[int, Entry("count", required=True, high=1e6)]

    def applied(self, job: Job, shown: tuple[str, ...]) -> Job:
        key = _find_seam(job, self.key).key
        return replace(job, order=tuple(move_seam(job.order or shown, key, self.to)))

    def words(self) -> str:
        return f"{self.key} moved to place {self.to + 1}"

    def subjects(self) -> list[str]:
        return [f"move:{self.key}"]


class Pin(Change, frozen=True):
    """A seam pinned "first" or "last", or, "", no longer."""

    kind = "pin"
    key: Annotated[str, _name()]
    at: Annotated[str, Entry("text", high=10)] = ""

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        key = _find_seam(job, self.key).key
        first, last = ("" if pinned == key else pinned for pinned in (job.first, job.last))
        if not self.at:
            return replace(job, first=first, last=last)
        ahead = self.at == "first"
        place = 0 if ahead else len(job.order)
        order = tuple(move_seam(job.order, key, place)) if job.order else ()
        return replace(job, order=order, first=key if ahead else first, last=last if ahead else key)

    def words(self) -> str:
        return f"{self.key} pinned {self.at}" if self.at else f"{self.key} unpinned"

    def subjects(self) -> list[str]:
        return [f"pin:{self.key}"]


class SetOrder(Change, frozen=True):
    """An order by hand, or, (), the one that is found."""

    kind = "order"
    order: Annotated[tuple[str, ...], Entry("texts", most=1000, high=_NAME)] = ()

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        return replace(job, order=self.order)

    def words(self) -> str:
        return "a sequence set manually" if self.order else "the proposed sequence is now used"

    def subjects(self) -> list[str]:
        return ["order:"]


_KINDS: Mapping[str, type[Change]] = {
    of.kind: of
    for of in (
        SetSeam,
        AddSeam,
        DropSeam,
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
    """A change from its data. Raises InputError."""
    of = _KINDS[checks.name("do", data.get("do"), _KINDS)]
    return read_document(of, {k: v for k, v in data.items() if k != "do"}, what="a change")


def change_data(change: Change) -> dict[str, Json]:
    """The data of a change."""
    return {"do": change.kind, **write_document(change, whole=True)}
