"""A measured photograph becomes a part of the record of its run."""

from __future__ import annotations

from msgspec.structs import replace

from ...core.run.run import MAX_FILE_NAME, MAX_PHOTOGRAPHS, Photograph
from ...store import queries, record_acts
from ...store.database import open_transaction
from ...store.errors import NotAllowed
from ...store.models import RunRow
from ..clock import get_now
from ..procedures.judged_signatures import is_signed_with_run
from ..runs.inbox import ATTACHED, PHOTOGRAPH_FIELDS
from ..runs.kept_files import KeptFiles
from ..runs.later_entries import extend_record
from .requests import PhotoTask


def keep_photograph(
    label: str, letter: str, number: int, task: PhotoTask, files: KeptFiles
) -> RunRow:
    """Save a photograph with its measurements in the record of a run. Twice saves it once.

    Args:
        label: The procedure.
        letter: Revision letter.
        number: Number of the run.
        task: The photograph.
        files: The files of runs.

    Raises:
        NotAllowed: The run is void, signed or full, or the photograph is not ready.
        StoreError: The disk is full.
    """
    if not task.upright or task.is_going:
        raise NotAllowed("This photograph is not ready.")
    sha256 = files.put_photograph(task.upright)
    straightened = files.put_photograph(task.straightened) if task.straightened else None
    name = task.request.name[-MAX_FILE_NAME // 2 :]
    photograph = Photograph(name, sha256, task.request.face, task.measured, straightened)
    with open_transaction():
        run = queries.get_run(queries.get_revision(label, letter), number)
        if run.voided_at:
            raise NotAllowed("This run is void. Undo that first.")
        document = run.document
        if photograph in document.photographs:
            return run
        if is_signed_with_run(run.revision, run):
            raise NotAllowed(
                "This run was signed, and a photograph would change the signed content. Record it "
                "with a new run."
            )
        if len(document.photographs) >= MAX_PHOTOGRAPHS:
            raise NotAllowed(f"This run has {MAX_PHOTOGRAPHS} photographs, the maximum.")
        before = run.record
        changed = replace(document, photographs=(*document.photographs, photograph))
        extended = extend_record(run, changed, PHOTOGRAPH_FIELDS)
        text = f"A photograph was added to the run of {run.made_on}."
        record_acts.add_act(ATTACHED, run.revision, text, get_now(), run, before)
        return extended
