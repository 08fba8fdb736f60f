"""Diagnosis of a run, from a file or from the library.

Inspection and diagnosis are saved with the run, and the change as a draft.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from ...core import catalogue
from ...core.diagnosis.attempts import Attempt, RecordedRun, build_attempts, list_earlier_changes
from ...core.diagnosis.changes import Change
from ...core.diagnosis.diagnosis import Reading, apply_change, diagnose_run
from ...core.errors import InputError
from ...core.joint.data import make_joint
from ...core.plan.plan import Plan
from ...core.repair.repairs import Repair, list_repairs
from ...core.run.inspection import Inspection
from ...core.run.photographed import fill_inspection, use_photographs
from ...core.run.quality import OXIDISED
from ...core.run.run import ArcSummary
from ...core.run.run import Run as RunDocument
from ...core.run.saved_reading import SavedChange, SavedReading
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...drawings.runs.bead_features import draw_band, draw_bead_feature, draw_tint
from ...formats.arc_log.arc_csv import read_arc_csv
from ...formats.joint_json import load_json, read_joint
from ...formats.reading_json import reading_data, save_reading
from ...formats.run_json import read_run_text
from ...store import queries
from ...store.database import open_transaction
from ...store.errors import NotAllowed, StoreError
from ...store.models import Revision, RunRow
from ..form_tokens import build_token
from ..planning.planner import cached_plan
from ..procedures.procedures import get_plan, save_next_draft, undo_attempt
from ..runs.arc_logs import analyse_readings, summarise_arc
from ..runs.later_entries import keep_reading
from ..runs.session_records import draw_flaws

# The maximum number of runs in a row, and of runs offered for diagnosis.
MAX_ATTEMPTS, MAX_OFFERED = 30, 20


def reading_of_text(
    text: str, joint: str | None, shop: Shop, log: Path | None = None
) -> dict[str, Json]:
    """Diagnose the text of a run file, as data of the diagnosis format.

    Args:
        text: The run file.
        joint: The text of a joint file, or None for the joint in the run.
        shop: The shop.
        log: The arc log of the run, or None for its recorded figures.

    Raises:
        InputError: A file is wrong.
    """
    run = read_run_text(text)
    if joint is None and run.joint is None:
        wording = (
            "is missing. A run needs its plan: give --joint FILE, or a run that contains its joint"
        )
        raise InputError("joint", None, wording)
    made_to = read_joint(load_json(joint)) if joint is not None else make_joint(run.joint or {})
    plan = cached_plan(made_to, shop)
    if log is not None:
        try:
            arc_log = analyse_readings(read_arc_csv(log), plan, None)
        except OSError as error:
            raise InputError(
                "log", log.name, f"cannot be read ({error.strerror}). Give the path of a log"
            ) from error
        if run.arc is not None or arc_log.stretches:
            run = replace(run, arc=summarise_arc(run.arc or ArcSummary("timer"), arc_log))
    return reading_data(diagnose_run(run, plan, shop), list_repairs(plan, run))


class ReadView(Struct, frozen=True):
    """A diagnosed run.

    Run, revision, plan, inspection, diagnosis, its row of runs, a saved diagnosis, and the repairs
    of its flaws on the part.
    """

    run: RunRow
    revision: Revision
    plan: Plan
    seen: Inspection
    reading: Reading
    attempts: tuple[Attempt, ...]
    kept: SavedReading | None
    repairs: tuple[Repair, ...] = ()

    @property
    def label(self) -> str:
        """Return the label of its revision."""
        return f"{self.revision.procedure.label} {self.revision.letter}"

    @property
    def record(self) -> RunDocument:
        """Return the run with its present inspection."""
        return replace(self.run.document, seen=self.seen)

    @property
    def is_last(self) -> bool:
        """Return whether it is the last run of its procedure."""
        return not self.attempts or self.attempts[-1].made.number == self.run.id

    @property
    def choices(self) -> tuple[Change, ...]:
        """Return the possible changes: the one change, and the next candidates."""
        return (*([self.reading.change] if self.reading.change else []), *self.reading.also)


def view(label: str, letter: str, number: int, entered: Inspection | None, shop: Shop) -> ReadView:
    """Diagnose a run.

    Args:
        label: Procedure.
        letter: Revision letter.
        number: Number of the run.
        entered: The inspection, or None for the saved one.
        shop: The shop.

    Raises:
        Missing: The run does not exist.
        NewerVersion: A newer version saved the procedure.
        Unreadable: The procedure is damaged.
    """
    revision = queries.get_revision(label, letter)
    run = queries.get_run(revision, number)
    plan, record = get_plan(revision), use_photographs(run.document)
    inspection = build_inspection(record) if entered is None else entered
    row = list_runs_in_row(revision)
    at = next((i for i, row_run in enumerate(row) if row_run.number == run.id), 0)
    inspected = replace(record, seen=inspection)
    reading = diagnose_run(
        inspected,
        plan,
        shop,
        list_earlier_changes([*row[:at], RecordedRun(run.id, letter, inspected, plan)]),
    )
    return ReadView(
        run,
        revision,
        plan,
        inspection,
        reading,
        build_attempts(row),
        record.reading,
        list_repairs(plan, inspected),
    )


def list_runs_in_row(revision: Revision) -> list[RecordedRun]:
    """Return the runs of the procedure, oldest first, without those with an unreadable plan."""
    plans: dict[int, Plan | None] = {}
    runs_in_row = []
    for of, run in queries.list_procedure_runs(revision.procedure, MAX_ATTEMPTS):
        if of.id not in plans:
            of.procedure = revision.procedure
            try:
                plans[of.id] = get_plan(of)
            except StoreError:
                plans[of.id] = None
        plan = plans[of.id]
        if plan is not None:
            runs_in_row.append(RecordedRun(run.id, of.letter, run.document, plan))
    return runs_in_row


def build_inspection(run: RunDocument) -> Inspection:
    """Return the inspection of a run before a new one: the saved one, or else from the record."""
    if run.seen is not None and run.seen.faults is not None:
        return run.seen
    return fill_inspection(_read_record(run), run)


def _read_record(run: RunDocument) -> Inspection:
    seen = run.seen or Inspection()
    front, back = (
        tint or _find_tint(colour)
        for tint, colour in (
            (seen.front_tint, run.front.colour),
            (seen.back_tint, run.back.colour),
        )
    )
    answers = {"sugar": True} if run.back.colour == OXIDISED else None
    return replace(
        seen,
        faults=run.faults or (),
        look=seen.look or run.look,
        front_tint=front,
        back_tint=back,
        told=seen.told or answers,
    )


def _find_tint(colour: str) -> str | None:
    """Return the tint of a recorded colour: of the same name, or else the first."""
    tints = catalogue.load_tints()
    if colour in tints:
        return colour
    return next((tint.key for tint in tints.values() if tint.colour == colour), None)


def save_change(
    label: str,
    letter: str,
    number: int,
    inspection: Inspection,
    code: str,
    shop: Shop,
    once: str = "",
) -> Revision | None:
    """Save the inspection, the diagnosis, and the accepted change.

    A change of the plan becomes the next draft.

    Args:
        label: Procedure.
        letter: Revision letter.
        number: Number of the run.
        inspection: The inspection.
        code: Code of a proposed change, or "" for none.
        shop: The shop.
        once: Token of the request.

    Returns:
        The draft, or None.

    Raises:
        InputError: The change is not proposed.
        NotAllowed: The change is not possible now.
        Missing: The run does not exist.
    """
    with open_transaction():
        reading_view = view(label, letter, number, inspection, shop)
        if code and not reading_view.is_last:
            raise NotAllowed("A newer run exists. Inspect that one.")
        change = next((choice for choice in reading_view.choices if choice.code == code), None)
        if code and change is None:
            raise NotAllowed(
                "The diagnosis has changed, and this change is no longer in it. Reload the page."
            )
        draft = None
        if change is not None and change.move.sets:
            name = build_token(once, [label, letter, number, code])
            draft = save_next_draft(
                label, make_joint(apply_change(change, reading_view.plan)), shop, name
            )
        kept = save_reading(reading_view.reading, draft.letter if draft else None, change)
        if not code and reading_view.kept is not None:
            kept = replace(kept, change=reading_view.kept.change, draft=reading_view.kept.draft)
        keep_reading(label, letter, number, inspection, kept)
        return draft


def undo_change(label: str, letter: str, number: int) -> None:
    """Undo a change.

    Its draft is archived, and the diagnosis stays without it.

    Args:
        label: Procedure.
        letter: Revision letter.
        number: Number of the run.

    Raises:
        NotAllowed: The draft has runs.
        Missing: The run does not exist.
    """
    with open_transaction():
        revision = queries.get_revision(label, letter)
        run = queries.get_run(revision, number)
        if queries.list_procedure_runs(revision.procedure, 1)[-1][1].id != number:
            raise NotAllowed("A newer run exists. The change for it is already saved.")
        record = run.document
        kept = record.reading
        if kept is None:
            return
        if kept.draft:
            undo_attempt(label, kept.draft, letter)
        bare = replace(kept, change=None, draft=None)
        keep_reading(label, letter, number, record.seen or Inspection(), bare)


def find_saved_change(revision: Revision | None) -> SavedChange | None:
    """Return the accepted change after the last run of a procedure, or None."""
    row = queries.list_procedure_runs(revision.procedure, 1) if revision is not None else []
    reading = row[-1][1].document.reading if row else None
    return reading.change if reading else None


def draw_picks(picks: Mapping[str, Mapping[str, str]]) -> dict[str, dict[str, str]]:
    """Return the drawings of observations, as SVG by kind and key.

    Args:
        picks: Edges, ripple and surface with their labels.
    """
    drawings = {
        kind: {key: draw_bead_feature(kind, key, text).svg for key, text in known.items()}
        for kind, known in picks.items()
    }
    tints = {key: draw_tint(key).svg for key in catalogue.load_tints()}
    return {
        "tints": tints,
        "faults": draw_flaws(),
        "band": {"band": draw_band().svg},
        **drawings,
    }


def to_read() -> list[RunRow]:
    """Return the last recorded runs, each with its revision and procedure."""
    return queries.list_last_runs(MAX_OFFERED)
