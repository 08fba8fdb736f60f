"""wisearc/measure: the measurements of a photograph."""

from __future__ import annotations

from ..core.photograph.measurement import Measurement
from ..core.schema.documents import write_document
from ..core.schema.json_types import Json

FORMAT, VERSION = "wisearc/measure", 1


def write_measurement(measurement: Measurement) -> dict[str, Json]:
    """Return a measurement as the data of its file.

    Args:
        measurement: The measurement.
    """
    head: dict[str, Json] = {"format": FORMAT, "version": VERSION}
    return head | write_document(measurement, with_defaults=True)
