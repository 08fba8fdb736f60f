"""The base of the changes of a job, and what they share."""

from collections.abc import Callable, Iterable, Mapping
from typing import Any, ClassVar, Self, TypeVar

from msgspec import Struct

from ....core.errors import InputError
from ....core.jobs.job import Job, Seam
from ....core.schema import checks
from ....core.schema.documents import read_document, read_value, write_document
from ....core.schema.entries import Entry, Own, read_attributes, read_defaults, read_entries
from ....core.schema.json_types import Json, JsonObject

T = TypeVar("T")
# Labels of fields of a seam or the head, if different from their keys.
_FIELDS = {
    "free_mm": "free sheet",
    "balance_s": "lead on one side",
    "joint": "its joint",
}
VALUES = Own(checks.check_mapping, dict, lambda: {"type": "object"})
MAX_NEW_SEAMS = 200


def _read_rows(name: str, value: Any) -> tuple[JsonObject, ...]:
    rows = checks.check_rows(name, value, MAX_NEW_SEAMS)
    return tuple(checks.check_mapping(f"{name}[{i}]", row) for i, row in enumerate(rows))


ROWS = Own(
    _read_rows,
    lambda rows: [dict(row) for row in rows],
    lambda: {"type": "array", "items": {"type": "object"}},
)
MAX_NAME = 200


def name_entry(key: str = "") -> Entry:
    """Return the declaration of the name of a seam or part.

    Args:
        key: Its key in the data, if different from the field.
    """
    return Entry("text", required=True, high=MAX_NAME, key=key)


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


def with_values(document: T, values: JsonObject) -> T:
    """Return a document with other values.

    Args:
        document: The document.
        values: The other values, by key.

    Raises:
        InputError: A value is wrong.
    """
    data = write_document(document, with_defaults=True)
    return read_document(type(document), {**data, **values})


def list_differing(document: object, values: JsonObject) -> dict[str, Json]:
    """Return the values that differ from a document.

    Args:
        document: The document.
        values: The values, by key.

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


def format_values(values: JsonObject) -> str:
    """Return changed fields as text."""
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


def find_seam(job: Job, key: str) -> Seam:
    """Return a seam of a job.

    Args:
        job: The job.
        key: Key of the seam.

    Raises:
        InputError: The job does not have it.
    """
    for seam in job.seams:
        if seam.key == key:
            return seam
    raise _make_missing("seam", key)


def check_part(job: Job, name: str) -> None:
    """Check that a job has a part.

    Args:
        job: The job.
        name: Name of the part.

    Raises:
        InputError: The job does not have it.
    """
    if name not in job.parts:
        raise _make_missing("part", name)


def _make_missing(kind: str, name: str) -> InputError:
    """Return the error about a seam or part that another person removed."""
    return InputError(kind, name, "is no longer in this job. Someone removed it")


def change_seams(job: Job, change_seam: Callable[[Seam], Seam]) -> tuple[Seam, ...]:
    """Return the seams of a job, each changed.

    Args:
        job: The job.
        change_seam: Returns the changed seam.
    """
    return tuple(change_seam(seam) for seam in job.seams)


def rename_keys(keys: Iterable[str], old: str, new: str) -> tuple[str, ...]:
    """Return keys with one of them renamed.

    Args:
        keys: The keys.
        old: Its key before.
        new: Its new key.
    """
    return tuple(new if key == old else key for key in keys)
