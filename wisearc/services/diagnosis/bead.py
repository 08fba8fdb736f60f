"""A bead without a record: its joint, its signs and the diagnosis. It can be saved."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from ...core import catalogue
from ...core.diagnosis.diagnosis import Reading, diagnose_run
from ...core.errors import InputError
from ...core.repair.repairs import Repair, list_repairs
from ...core.run.inspection import Inspection
from ...core.run.quality import OXIDISED
from ...core.run.run import WANTED, BackFace, FrontFace, Run, Settings
from ...core.shop.shop import Shop
from ...store.database import open_transaction
from ...store.models import Revision
from ..clock import get_now
from ..planning.typed_joint import TypedJoint
from ..procedures.procedures import keep_draft
from ..runs.runs import record_run

# A face that was not inspected has no tint. The diagnosis does not use these colours then.
_NOT_CHECKED = "not-seen"
GOOD = "good"


class BeadView(Struct, frozen=True):
    """A bead: its joint with the plan, the inspection, the diagnosis, and repairs of the part."""

    typed: TypedJoint
    seen: Inspection
    reading: Reading
    repairs: tuple[Repair, ...]

    # A bead has no recorded run.
    run: None = None


def judge_bead(
    typed: TypedJoint, inspection: Inspection, current_a: float | None, shop: Shop
) -> BeadView:
    """Diagnose a bead by its joint. A setting that is not known is no evidence.

    Args:
        typed: The joint with its plan.
        inspection: The signs on the bead.
        current_a: The setting with which it was welded, A, or None if it is not known.
        shop: The shop.
    """
    run = _build_run(inspection, current_a)
    reading = diagnose_run(run, typed.plan, shop)
    return BeadView(typed, inspection, reading, list_repairs(typed.plan, run))


def get_record(view: BeadView) -> Run:
    """Return the bead as a run without date and person."""
    return _build_run(view.seen, None)


def _build_run(
    inspection: Inspection, current_a: float | None, who: str = "", day: str = "2000-01-01"
) -> Run:
    tints = catalogue.load_tints()
    front, back = (
        tints[key].colour if key else "" for key in (inspection.front_tint, inspection.back_tint)
    )
    if (inspection.told or {}).get("sugar"):
        back = OXIDISED
    return Run(
        day,
        who,
        FrontFace(front or "silver"),
        BackFace(back or _NOT_CHECKED),
        False,
        set=Settings(current_a=current_a),
        faults=inspection.faults or None,
        look=inspection.look,
        seen=inspection,
    )


def save_bead(
    view: BeadView,
    current_a: float | None,
    who: str,
    shop: Shop,
    once: str,
    at: Callable[[], str] = get_now,
) -> tuple[Revision, int]:
    """Save a bead as a run: of the named procedure, or of a new draft of its joint.

    Its settings are not known, so it never verifies a procedure.

    Args:
        view: The bead.
        current_a: The setting with which it was welded, A, or None.
        who: Initials of the person.
        shop: The shop.
        once: Token of the form.
        at: Current time, UTC.

    Returns:
        The revision, and the number of the run.

    Raises:
        InputError: The initials or the tint of the face are missing.
    """
    if not who.strip():
        raise InputError("who", "", WANTED["who"].rstrip("."))
    if not view.seen.front_tint:
        raise InputError("front_tint", "", WANTED["front"].rstrip("."))
    run = _build_run(view.seen, current_a, who.strip(), at()[:10])
    with open_transaction():
        revision = view.typed.revision or keep_draft(view.typed.joint, shop, once, at)
        row, _ = record_run(
            revision.procedure.label,
            revision.letter,
            replace(run, as_done=view.reading.verdict == GOOD),
            once and f"{once}r",
            at,
        )
        return revision, int(row.id)
