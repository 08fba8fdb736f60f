"""A repair as recorded with its run."""

from collections.abc import Mapping
from typing import Annotated

from msgspec import Struct

from .. import catalogue
from ..quantities import Quantity
from ..schema.entries import Entry, Option, list_options

RESULTS = {"sound": "sound", "not-sound": "not sound", "scrap": "scrapped"}
SCRAPPED = "scrap"
MAX_REPAIRS, MAX_REPAIR_NOTES, MAX_INITIALS = 20, 400, 60


def list_repairable() -> Mapping[str, Option]:
    """Return the flaws with a repair, by key and name."""
    names = {**catalogue.load_flaws(), catalogue.OXIDISED_ROOT: "oxidised root"}
    return {key: Option(names[key]) for key in catalogue.load_repairs()}


class RecordedRepair(Struct, frozen=True):
    """A repair of a run: flaw, date, welder, result, repaired length, place and notes."""

    flaw: Annotated[str, Entry("name", names=list_repairable, required=True, label="Flaw")]
    when: Annotated[str, Entry("date", required=True, label="Date")]
    who: Annotated[str, Entry("text", high=MAX_INITIALS, required=True, label="Initials")]
    result: Annotated[
        str, Entry("name", names=list_options(RESULTS), required=True, label="Result")
    ]
    length_mm: Annotated[
        float | None,
        Entry("number", label="Repaired length", quantity="length", low=0.5, high=20000),
    ] = None
    at_mm: Annotated[
        float | None,
        Entry("number", label="Distance from the start", quantity="length", high=20000),
    ] = None
    notes: Annotated[str, Entry("lines", high=MAX_REPAIR_NOTES, label="Notes")] = ""

    @property
    def length(self) -> Quantity | None:
        """Return the repaired length, or None."""
        return None if self.length_mm is None else Quantity(self.length_mm, "length")

    @property
    def at(self) -> Quantity | None:
        """Return the distance from the start of the seam, or None."""
        return None if self.at_mm is None else Quantity(self.at_mm, "length")
