"""Arc logs: parsing, and comparison with a plan."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

from ...core.arc_log.arc_log import ArcLog, analyse
from ...core.arc_log.limits import get_limits
from ...core.arc_log.readings import Readings
from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.run.run import ArcSummary
from ...core.run.verification import Bands
from ...core.schema.documents import read_document, write_document
from ...core.schema.json_types import Json
from ...formats.arc_log.arc_csv import read_arc_csv
from ...formats.arc_log.arc_json import arc_log_data
from ...store.errors import DiskFull, is_disk_full

Watch = Callable[[float], None]
# Parsing takes this fraction of the work, the analysis the rest.
READ_SHARE = 0.7


def _scale_progress(watch: Watch | None, start: float, end: float) -> Watch | None:
    """Return the progress of a part of the work, from its start to its end."""
    return None if watch is None else lambda share: watch(start + (end - start) * share)


def log_as_data(
    path: Path, plan: Plan | None, length_mm: float | None, watch: Watch | None = None
) -> dict[str, Json]:
    """Return the analysis of a log as the data of an arc-log file.

    Args:
        path: The log.
        plan: The plan for its limits, or None.
        length_mm: Welded length, mm, or None for that of the plan.
        watch: Called with the progress, or None.

    Raises:
        InputError: The log is not valid.
        DiskFull: There is no room for the columns.
    """
    if length_mm is not None and not 0 < length_mm <= 1e6:
        raise InputError("length-mm", length_mm, "must be a length in mm above 0, such as 380")
    try:
        # With the columns on the disk a log of any length needs little memory.
        with tempfile.TemporaryDirectory() as folder:
            readings = read_arc_csv(path, _scale_progress(watch, 0.0, READ_SHARE), Path(folder))
            log = analyse_readings(
                readings, plan, None, length_mm, _scale_progress(watch, READ_SHARE, 1.0)
            )
    except OSError as error:
        if is_disk_full(error):
            effect = "Free some space in the temporary folder, then read the log again."
            raise DiskFull(effect) from error
        raise InputError(
            "file", path.name, f"cannot be read ({error.strerror}). Give the path of a log"
        ) from error
    return arc_log_data(log)


# The figures of a run and of its log with the same meaning.
LOGGED = (
    "mean_a",
    "background_a",
    "rate_pps",
    "on_pct",
    "energy_kj",
    "heat_input_kj_mm",
    "preflow_s",
    "postflow_s",
    "taper_s",
    "restarts",
)


def summarise_arc(before: ArcSummary, log: ArcLog | None) -> ArcSummary:
    """Return the arc figures of a run with those of a log.

    Without an arc in the log, the earlier figures stay.

    Args:
        before: The earlier figures.
        log: The log, or None.

    Raises:
        InputError: A figure is wrong.
    """
    fields = write_document(before, with_defaults=True)
    if log is not None and log.stretches:
        fields |= {"by": "log", "arc_s": log.seam_arc_s}
        fields |= {key: getattr(log, key) for key in LOGGED}
        beats = sum(s.beats for s in log.stretches)
        fields |= {k: v for k, v in (("tacks", log.tacks), ("beats", beats)) if v}
    kept = {k: round(v, 4) if isinstance(v, float) else v for k, v in fields.items()}
    return read_document(ArcSummary, kept, "arc")


def analyse_readings(
    readings: Readings,
    plan: Plan | None,
    bands: Bands | None,
    length_mm: float | None = None,
    watch: Watch | None = None,
) -> ArcLog:
    """Analyse readings with the limits of a plan and its saved ranges.

    Args:
        readings: The readings.
        plan: The plan, or None.
        bands: The saved ranges, or None.
        length_mm: Welded length, mm, or None.
        watch: Called with the progress, or None.
    """
    if plan is None:
        return analyse(readings, length_mm, watch=watch)
    return analyse(
        readings,
        length_mm or plan.travel.length_mm,
        get_limits(plan, bands),
        watch,
        plan.heat.arc_voltage_v,
    )
