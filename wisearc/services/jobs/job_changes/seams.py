"""Changes of the seams of a job."""

from collections.abc import Mapping
from collections.abc import Set as AbstractSet
from typing import Annotated, Self

from msgspec.structs import replace

from ....core.jobs.job import Job, Seam
from ....core.schema.documents import read_document
from ....core.schema.entries import Entry
from ....core.schema.json_types import JsonObject
from .change import (
    ROWS,
    VALUES,
    Change,
    change_seams,
    find_seam,
    format_values,
    list_differing,
    name_entry,
    rename_keys,
    with_values,
)


class SetSeam(Change, frozen=True):
    """A change of fields of a seam, by their keys in a file."""

    kind = "seam"
    key: Annotated[str, name_entry()]
    values: Annotated[JsonObject, Entry("own", own=VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the changed seam."""
        values = dict(self.values)
        # A seam has either a joint or a procedure, even if another person set the other one.
        for field, other in (("joint", "procedure"), ("procedure", "joint")):
            if values.get(field):
                values[other] = None
        old, seam = self.key, with_values(find_seam(job, self.key), values)
        new = seam.key

        def seen(changed_seam: Seam) -> Seam:
            if changed_seam.key == old:
                return seam
            after, hides = (
                rename_keys(changed_seam.after, old, new),
                rename_keys(changed_seam.hides, old, new),
            )
            return replace(changed_seam, after=after, hides=hides)

        first, last = rename_keys((job.first, job.last), old, new)
        order = rename_keys(job.order, old, new)
        return replace(job, seams=change_seams(job, seen), order=order, first=first, last=last)

    def describe(self) -> str:
        """Return the text of the change."""
        return f"{self.key}: {format_values(self.values)}"

    def subjects(self) -> list[str]:
        """Return the changed fields."""
        return [f"seam:{self.key}:{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        """Return the fields that differ."""
        displayed = next((seam for seam in base.seams if seam.key == self.key), None)
        values = self.values if displayed is None else list_differing(displayed, self.values)
        return replace(self, values=values) if values else None


class SetWaits(Change, frozen=True):
    """The waits of seams and their mean temperatures, from the field of heat; None removes them."""

    kind = "waits"
    waits: Annotated[JsonObject, Entry("own", own=VALUES, required=True)]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the waits: {key: [wait s, mean °C]}."""

        def cooled(seam: Seam) -> Seam:
            if seam.key not in self.waits:
                return seam
            row = self.waits[seam.key]
            wait, mean = row if isinstance(row, list | tuple) else (None, None)
            return with_values(seam, {"cool_s": wait, "mean_end_c": mean})

        return replace(job, seams=change_seams(job, cooled))

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
    seam: Annotated[JsonObject, Entry("own", own=VALUES, required=True)]

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
    seams: Annotated[tuple[JsonObject, ...], Entry("own", own=ROWS, required=True)]

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
    key: Annotated[str, name_entry()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job without the seam."""
        removed_key = find_seam(job, self.key).key

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
