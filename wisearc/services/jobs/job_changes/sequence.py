"""Changes of the head and of the order of a job."""

from typing import Annotated, Self

from msgspec.structs import replace

from ....core.jobs.job import Job, find_section_key, find_section_keys, name_sections
from ....core.jobs.job_data import job_data, make_job
from ....core.jobs.job_plan import move_seam
from ....core.schema.entries import Entry
from ....core.schema.json_types import JsonObject
from .change import MAX_NAME, VALUES, Change, find_seam, format_values, list_differing, name_entry


class SetHead(Change, frozen=True):
    """A change of title, quantity and times of a job, by their keys in a file."""

    kind = "head"
    values: Annotated[JsonObject, Entry("own", own=VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the changed head."""
        return make_job({**job_data(job), **self.values})

    def describe(self) -> str:
        """Return the text of the change."""
        return format_values(self.values)

    def subjects(self) -> list[str]:
        """Return the changed fields."""
        return [f"head::{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        """Return the fields that differ."""
        values = list_differing(base, self.values)
        return replace(self, values=values) if values else None


class Move(Change, frozen=True):
    """A seam moved to a place in the order, from 0."""

    kind = "move"
    key: Annotated[str, name_entry()]
    to: Annotated[int, Entry("count", required=True, high=1e6)]

    def applied(self, job: Job, displayed: tuple[str, ...]) -> Job:
        """Return a job with the changed order."""
        find_seam(job, find_section_key(job, self.key))
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
    key: Annotated[str, name_entry()]
    at: Annotated[str, Entry("text", high=10)] = ""

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the fixed seam."""
        key = find_seam(job, self.key).key
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
    order: Annotated[tuple[str, ...], Entry("texts", most=1000, high=MAX_NAME)] = ()

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the order."""
        return replace(job, order=find_section_keys(job, self.order))

    def describe(self) -> str:
        """Return the text of the change."""
        return "a sequence set manually" if self.order else "the proposed sequence is now used"

    def subjects(self) -> list[str]:
        """Return the changed thing: the order."""
        return ["order:"]
