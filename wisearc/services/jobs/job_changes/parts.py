"""Changes of the parts of a job."""

from typing import Annotated, Self

from msgspec.structs import replace

from ....core.errors import InputError
from ....core.jobs.job import Job, Part
from ....core.jobs.job_data import job_data, make_job
from ....core.schema.entries import Entry
from ....core.schema.json_types import JsonObject
from .change import (
    VALUES,
    Change,
    change_seams,
    check_part,
    list_differing,
    name_entry,
    rename_keys,
    with_values,
)


class SetPart(Change, frozen=True):
    """A change of fields of a part, by their keys in a file."""

    kind = "part"
    name: Annotated[str, name_entry()]
    values: Annotated[JsonObject, Entry("own", own=VALUES, required=True, key="set")]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the changed part."""
        check_part(job, self.name)
        part = with_values(job.about.get(self.name, Part()), self.values)
        return replace(job, about={**job.about, self.name: part})

    def describe(self) -> str:
        """Return the text of the change."""
        return f"part {self.name} changed"

    def subjects(self) -> list[str]:
        """Return the changed fields."""
        return [f"part:{self.name}:{field}" for field in self.values]

    def differing(self, base: Job) -> Self | None:
        """Return the fields that differ."""
        values = list_differing(base.about.get(self.name, Part()), self.values)
        return replace(self, values=values) if values else None


class AddPart(Change, frozen=True):
    """A new part."""

    kind = "add-part"
    name: Annotated[str, name_entry()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the part."""
        return make_job({**job_data(job), "parts": [*job.parts, self.name]})

    def describe(self) -> str:
        """Return the text of the change."""
        return f"part {self.name} added"


class DropPart(Change, frozen=True):
    """A removed part, without seams."""

    kind = "drop-part"
    name: Annotated[str, name_entry()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job without the part."""
        check_part(job, self.name)
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
    name: Annotated[str, name_entry()]
    to: Annotated[str, name_entry()]

    def applied(self, job: Job, _shown: tuple[str, ...]) -> Job:
        """Return a job with the renamed part."""
        old, new = self.name, self.to
        check_part(job, old)
        seams = change_seams(
            job, lambda seam: replace(seam, joins=rename_keys(seam.joins, old, new))
        )
        about = {new if name == old else name: part for name, part in job.about.items()}
        renamed = replace(job, parts=rename_keys(job.parts, old, new), seams=seams, about=about)
        return make_job(job_data(renamed))

    def describe(self) -> str:
        """Return the text of the change."""
        return f"{self.name} renamed {self.to}"
