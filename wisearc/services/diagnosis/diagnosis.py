"""Reading: what a run says, of a file or of the book; what is seen of it and what is made of that
kept with it, the change kept as a draft.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from ...core import catalogue
from ...core.diagnosis.attempts import Attempt, Made, build_attempts, list_earlier_changes
from ...core.diagnosis.changes import Change
from ...core.diagnosis.diagnosis import Reading, apply_change, diagnose_run
from ...core.errors import InputError
from ...core.joint.data import make_joint
from ...core.plan.plan import Plan
from ...core.run.inspection import Inspection
from ...core.run.quality import OXIDISED
from ...core.run.run import ArcSummary
from ...core.run.run import Run as RunDocument
from ...core.run.saved_reading import SavedChange, SavedReading
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...drawings.runs.bead_seen import draw_band, draw_seen, draw_tint
from ...formats.arc_log.arc_csv import read_arc_csv
from ...formats.joint_json import load_json, read_joint
from ...formats.reading_json import reading_data, save_reading
from ...formats.run_json import read_run_text
from ...store import queries
from ...store.database import open_transaction
from ...store.errors import NotAllowed, StoreError
from ...store.models import Revision, RunRow
from ..planning.planning import cached_plan
from ..procedures.procedures import back_from, build_token, get_plan, save_next_draft
from ..runs.arc_logs import analyse_readings, summarise_arc
from ..runs.runs import keep_reading
from ..runs.writing import draw_flaws

# so many runs of a joint stand in a row, so many of the book are offered to be read
MAX_ATTEMPTS, MAX_OFFERED = 30, 20


def reading_of_text(
    text: str, joint: str | None, shop: Shop, log: Path | None = None
) -> dict[str, Json]:
    """What the text of a run file says, as data of the reading format.

    Parameters: joint, the text of a joint file, else the joint that the run carries; log, the arc
    log that goes with it, else what the run tells of its arc. Raises InputError.
    """
    run = read_run_text(text)
    if joint is None and run.joint is None:
        words = (
            "is missing. A run needs its plan: give --joint FILE, or a run that contains its joint"
        )
        raise InputError("joint", None, words)
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
    return reading_data(diagnose_run(run, plan, shop))


class ReadView(Struct, frozen=True):
    """A run that is read: itself, its revision and plan; what was seen of it; what it says; it
    among the runs of its joint; what was kept of an earlier reading.
    """

    run: RunRow
    revision: Revision
    plan: Plan
    seen: Inspection
    reading: Reading
    attempts: tuple[Attempt, ...]
    kept: SavedReading | None

    @property
    def label(self) -> str:
        """Number and letter of its revision."""
        return f"{self.revision.procedure.label} {self.revision.letter}"

    @property
    def record(self) -> RunDocument:
        """The run with what is seen of it now."""
        return replace(self.run.document, seen=self.seen)

    @property
    def is_last(self) -> bool:
        """Whether no run of its procedure was made since."""
        return not self.attempts or self.attempts[-1].made.number == self.run.id

    @property
    def choices(self) -> tuple[Change, ...]:
        """What can be taken: the one change, and what would come after it."""
        return (*([self.reading.change] if self.reading.change else []), *self.reading.also)


def view(label: str, letter: str, number: int, seen: Inspection | None, shop: Shop) -> ReadView:
    """A run read. Parameters: number, the run's; seen, what is seen of it now, else what was kept.
    Raises Missing, NewerVersion, Unreadable.
    """
    revision = queries.get_revision(label, letter)
    run = queries.run_of(revision, number)
    plan, record = get_plan(revision), run.document
    found = build_inspection(record) if seen is None else seen
    row = list_runs_in_row(revision)
    at = next((i for i, made in enumerate(row) if made.number == run.id), 0)
    looked = replace(record, seen=found)
    reading = diagnose_run(
        looked, plan, shop, list_earlier_changes([*row[:at], Made(run.id, letter, looked, plan)])
    )
    return ReadView(run, revision, plan, found, reading, build_attempts(row), record.reading)


def list_runs_in_row(revision: Revision) -> list[Made]:
    """The runs of a revision's procedure, oldest first, those whose plan cannot be shown left
    away.
    """
    plans: dict[int, Plan | None] = {}
    found = []
    for of, run in queries.list_procedure_runs(revision.procedure, MAX_ATTEMPTS):
        if of.id not in plans:
            of.procedure = revision.procedure
            try:
                plans[of.id] = get_plan(of)
            except StoreError:
                plans[of.id] = None
        plan = plans[of.id]
        if plan is not None:
            found.append(Made(run.id, of.letter, run.document, plan))
    return found


def build_inspection(run: RunDocument) -> Inspection:
    """What is seen of a run before anyone looks closer: what was kept of it, else what was written
    down.
    """
    if run.seen is not None:
        return run.seen
    tints = catalogue.load_tints().values()
    front, back = (
        next((tint.key for tint in tints if tint.colour == colour), None)
        for colour in (run.front.colour, run.back.colour)
    )
    told = {"sugar": True} if run.back.colour == OXIDISED else None
    return Inspection(run.faults or (), run.look, front, back, told=told)


def save_change(
    label: str,
    letter: str,
    number: int,
    seen: Inspection,
    code: str,
    shop: Shop,
    once: str = "",
) -> Revision | None:
    """Keep what was seen and read of a run, and the change that is taken: where it is one of the
    plan, as the next draft.

    Parameters: code, of the changes that the reading proposes, "" to take none. Returns the draft,
    or None. Raises InputError, NotAllowed, Missing.
    """
    with open_transaction():
        found = view(label, letter, number, seen, shop)
        if code and not found.is_last:
            raise NotAllowed("A newer run exists. Inspect that one.")
        change = next((one for one in found.choices if one.code == code), None)
        if code and change is None:
            raise NotAllowed(
                "The diagnosis has changed, and this change is no longer in it. Reload the page."
            )
        draft = None
        if change is not None and change.move.sets:
            name = build_token(once, [label, letter, number, code])
            draft = save_next_draft(label, make_joint(apply_change(change, found.plan)), shop, name)
        kept = save_reading(found.reading, draft.letter if draft else None, change)
        if not code and found.kept is not None:
            kept = replace(kept, change=found.kept.change, draft=found.kept.draft)
        keep_reading(label, letter, number, seen, kept)
        return draft


def undo_change(label: str, letter: str, number: int) -> None:
    """Take a change back: its draft is put away, and what was read stays without it. Raises
    NotAllowed, Missing.
    """
    with open_transaction():
        revision = queries.get_revision(label, letter)
        run = queries.run_of(revision, number)
        if queries.list_procedure_runs(revision.procedure, 1)[-1][1].id != number:
            raise NotAllowed("A newer run exists. The change for it is already saved.")
        record = run.document
        kept = record.reading
        if kept is None:
            return
        if kept.draft:
            back_from(label, kept.draft, letter)
        bare = replace(kept, change=None, draft=None)
        keep_reading(label, letter, number, record.seen or Inspection(), bare)


def find_saved_change(revision: Revision | None) -> SavedChange | None:
    """The change that was taken after the last run of a revision's procedure, as its reading was
    kept, or None.
    """
    row = queries.list_procedure_runs(revision.procedure, 1) if revision is not None else []
    reading = row[-1][1].document.reading if row else None
    return reading.change if reading else None


def draw_picks(picks: Mapping[str, Mapping[str, str]]) -> dict[str, dict[str, str]]:
    """The drawings of what can be seen, as SVG by kind and key. Parameters: picks, edges, ripple
    and look with their words.
    """
    found = {
        kind: {key: draw_seen(kind, key, words).svg for key, words in known.items()}
        for kind, known in picks.items()
    }
    tints = {key: draw_tint(key).svg for key in catalogue.load_tints()}
    return {
        "tints": tints,
        "faults": draw_flaws(),
        "band": {"band": draw_band().svg},
        **found,
    }


def to_read() -> list[RunRow]:
    """The runs that were written down last, each with its revision and procedure."""
    return queries.list_last_runs(MAX_OFFERED)
