"""What a recorded run gains later: its inspection with the diagnosis, and its repairs.

Nothing else of the record changes.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from ...core.run.inspection import Inspection
from ...core.run.recorded_repair import MAX_REPAIRS, RecordedRepair
from ...core.run.run import Run, write_run
from ...core.run.saved_reading import SavedReading
from ...formats.run_json import measure_size
from ...store import queries, record_acts
from ...store.database import open_transaction
from ...store.errors import NotAllowed
from ...store.models import RunRow
from ..clock import get_now
from ..procedures.library_search import list_record
from .runs import build_full_error, calculate_room_bytes

INSPECTED = "inspected"
INSPECTION_FIELDS = ("seen", "reading")
REPAIR_FIELDS = ("repairs",)


def keep_reading(
    label: str, letter: str, number: int, inspection: Inspection, reading: SavedReading | None
) -> RunRow:
    """Save the inspection and the diagnosis of a run.

    Args:
        label: The procedure.
        letter: Revision letter.
        number: Number of the run.
        inspection: The inspection.
        reading: The diagnosis, or None.

    Raises:
        NotAllowed: The run is void.
    """
    with open_transaction():
        run = _find_valid_run(label, letter, number)
        document = replace(run.document, seen=inspection, reading=reading)
        before = run.record
        extended = extend_record(run, document, INSPECTION_FIELDS)
        if extended.record != before:
            text = f"Inspection of the run of {run.made_on} was saved."
            record_acts.add_act(INSPECTED, run.revision, text, get_now(), run, before)
        return extended


def restore_inspection(label: str, letter: str, number: int, before: Run) -> RunRow:
    """Restore the earlier inspection and diagnosis of a run.

    Args:
        label: The procedure.
        letter: Revision letter.
        number: Number of the run.
        before: The run before its inspection.

    Raises:
        NotAllowed: The run is void.
    """
    with open_transaction():
        run = _find_valid_run(label, letter, number)
        document = replace(run.document, seen=before.seen, reading=before.reading)
        return extend_record(run, document, INSPECTION_FIELDS)


def keep_repair(label: str, letter: str, number: int, repair: RecordedRepair, known: int) -> RunRow:
    """Add a repair to a run. The same request twice adds it once.

    Args:
        label: The procedure.
        letter: Revision letter.
        number: Number of the run.
        repair: The repair.
        known: Number of repairs that the page showed.

    Raises:
        NotAllowed: The run is void, has no room, or has gained another repair.
    """
    with open_transaction():
        run = _find_valid_run(label, letter, number)
        repairs = run.document.repairs
        if repairs[known:] == (repair,):
            return run
        if len(repairs) != known:
            raise NotAllowed(
                "The repairs of this run have changed since this page was opened. Check the list, "
                "then record the repair again if it is not in it."
            )
        if known >= MAX_REPAIRS:
            raise NotAllowed(f"This run has {MAX_REPAIRS} repairs, the maximum. Record a new run.")
        changed = replace(run.document, repairs=(*repairs, repair))
        return extend_record(run, changed, REPAIR_FIELDS)


def remove_last_repair(label: str, letter: str, number: int, known: int) -> RunRow:
    """Remove the last repair of a run, which was recorded by mistake. Twice removes it once.

    Args:
        label: The procedure.
        letter: Revision letter.
        number: Number of the run.
        known: Number of repairs that the page showed.

    Raises:
        NotAllowed: The run is void, or has gained another repair.
    """
    with open_transaction():
        run = _find_valid_run(label, letter, number)
        repairs = run.document.repairs
        if len(repairs) < known:
            return run
        if len(repairs) != known:
            raise NotAllowed(
                "The repairs of this run have changed since this page was opened. Check the list."
            )
        return extend_record(run, replace(run.document, repairs=repairs[:-1]), REPAIR_FIELDS)


def _find_valid_run(label: str, letter: str, number: int) -> RunRow:
    run = queries.get_run(queries.get_revision(label, letter), number)
    if run.voided_at:
        raise NotAllowed("This run is void. Undo that first.")
    return run


def extend_record(run: RunRow, document: Run, fields: Sequence[str]) -> RunRow:
    """Save the fields of a record that it may gain later, and leave all others as written.

    Args:
        run: The run.
        document: The run with the new values.
        fields: The fields to save.

    Raises:
        NotAllowed: The revision has no room.
    """
    data = write_run(document)
    record = {key: value for key, value in run.record.items() if key not in fields}
    record |= {key: data[key] for key in fields if key in data}
    more = measure_size(record) - measure_size(run.record)
    if more > calculate_room_bytes(run.revision, new_run=False):
        raise build_full_error(run.revision)
    run.record = record
    run.save(only=[RunRow.record])
    list_record(run.revision, run=run)
    return run
