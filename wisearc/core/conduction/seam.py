"""From a plan to the seam that the field calculates: its strips, arc, cover and bars."""

from __future__ import annotations

from .. import catalogue
from ..joint.section import Section
from ..physics.heat import AMBIENT_C, ARC_EFFICIENCY, ARC_VOLTAGE_V
from ..physics.heat_field import JET_FACE_W_MM2K, STILL_FACE_W_MM2K, TAPER_S, find_inset_mm
from ..physics.heat_in_time import STEADY_ARC, PulseTrain
from ..plan.arc.pulse import build_pulse_train
from ..plan.arc.slow_pulse import build_sheet
from ..plan.plan import Plan
from ..plan.preparation.tacks import APPROACHES
from .metal import Metal, build_constant_metal, build_metal
from .problem import FULL_FRAMES, Arc, Problem, Strip
from .trial import (
    FULL_GRID_MM,
    MAX_SEAM_MM,
    NO_TRIAL,
    PREVIEW_AFTER_S,
    PREVIEW_FRAMES,
    PREVIEW_SEAM_MM,
    Trial,
    check_seam,
    find_bar_mm,
    find_free_width_mm,
)

# The jet of argon on the front face, above the loss in still air, W/mm²K. Estimate
# "glow-after-stop".
JET_W_MM2K = JET_FACE_W_MM2K - STILL_FACE_W_MM2K
# The arc waits at the start for a pool of this share of the target, at most this long, s. Welders
# wait until the pool has formed: common practice. Estimate "field-of-heat".
START_SHARE, MAX_START_S = 0.8, 3.0
UNTIL_C, MAX_AFTER_S = 45.0, 1800.0
# Of the arc, on the thicker member where the members differ: handbook 4.3, common practice.
THICK_SHARE = 2 / 3
# A plate so large that its edges have no effect, mm.
_ENDLESS_MM = 200.0


def build_problem(
    plan: Plan,
    grid_mm: float = FULL_GRID_MM,
    trial: Trial = NO_TRIAL,
    constant: bool = False,
    preview: bool = False,
    probes_mm: tuple[tuple[float, float], ...] = (),
) -> Problem:
    """Return the seam of a plan, new or saved.

    Args:
        plan: The plan.
        grid_mm: The finest grid, mm.
        trial: Settings to be tried instead of those of the plan.
        constant: Whether the properties are constant, without losses, latent heat and edges, as in
            the closed form.
        preview: Whether to calculate only a shorter seam and less of its cooling.
        probes_mm: Places whose history is recorded: along the seam from its start, and across it
            (positive on the first member), mm.

    Raises:
        InputError: The seam cannot be calculated: a part smaller than the pool, bars wider than
            the sheet, or a value outside its limits.
    """
    section, pool = plan.section, plan.travel.pool_width_mm
    check_seam(plan, trial, grid_mm)
    width, bar = find_free_width_mm(plan, trial), find_bar_mm(plan, trial)
    if constant:
        width, bar = _ENDLESS_MM, None
    length = min(section.length_mm, PREVIEW_SEAM_MM if preview else MAX_SEAM_MM)
    contact = 0.0
    if bar is not None:
        contact = plan.back.contact_w_mm2k or _find_usual_contact_w_mm2k()
    closed = section.all_round and not constant
    at_edge = section.ends_at_edge and not constant
    beyond = _ENDLESS_MM if constant else _find_beyond_mm(section)
    torch = plan.torch
    return Problem(
        metal=build_constant_metal(section.heat) if constant else _build_plan_metal(plan),
        sheet=build_sheet(section),
        strips=_build_strips(plan, width, bar, symmetric=constant),
        length_mm=length,
        before_mm=beyond,
        after_mm=beyond,
        closed=closed,
        inset_mm=find_inset_mm(pool, length) if at_edge else 0.0,
        arc=_build_arc(plan, trial, constant),
        contact_w_mm2k=contact,
        cover_mm=torch.cover_mm / 2,
        jet_w_mm2k=0.0 if constant else JET_W_MM2K,
        back_covered=plan.back.purge is not None or bar is not None,
        postflow_s=plan.gas.postflow_s,
        start_c=AMBIENT_C if trial.start_c is None else max(AMBIENT_C, trial.start_c),
        interpass_c=plan.heat.interpass_c,
        grid_mm=grid_mm,
        until_c=UNTIL_C,
        max_after_s=20.0 if constant else PREVIEW_AFTER_S if preview else MAX_AFTER_S,
        frames=PREVIEW_FRAMES if preview else FULL_FRAMES,
        probes_mm=probes_mm,
        tacks_mm=() if constant else _list_tacks_mm(plan, length),
        tack_mm2=_get_tack_mm2(plan),
        tack_width_mm=pool,
    )


def _list_tacks_mm(plan: Plan, length_mm: float) -> tuple[tuple[float, float], ...]:
    """Return the tacks of a seam as (from, to) mm."""
    half = plan.tacks.length_mm / 2
    return tuple((at - half, at + half) for at in plan.tacks.positions_mm if at - half < length_mm)


def _get_tack_mm2(plan: Plan) -> float:
    """Return the metal of a tack on top of the seam, mm²: as full as the bead, or none.

    A burst, or a tack without a rod, only melts the edges. Estimate "field-of-heat".
    """
    if plan.filler.rod is None or not APPROACHES[plan.tacks.school].has_rod:
        return 0.0
    return plan.filler.deposit_mm2


def _find_beyond_mm(section: Section) -> float:
    """Return the length of a tube on each side of a seam that does not close, mm, or 0."""
    if section.circumference_mm is None or section.all_round:
        return 0.0
    return max(0.0, section.circumference_mm - section.length_mm) / 2


def _find_usual_contact_w_mm2k() -> float:
    """Return the contact of the bars of a trial where the plan has none: the best ones."""
    return max(cover.contact_w_mm2k for cover in catalogue.back_covers().values())


def _build_plan_metal(plan: Plan) -> Metal:
    """Return the metal of a plan; constant properties where the catalogue has it no longer."""
    groups = tuple(metal.thermal for metal in plan.metals[:2] if metal is not None)
    if len(groups) < 2:
        return build_constant_metal(plan.section.heat)
    return build_metal(tuple(sorted(groups)))


def _build_strips(
    plan: Plan, width_mm: float, bar_mm: float | None, symmetric: bool
) -> tuple[Strip, ...]:
    """Return the strips of the joint, equal ones as one."""
    section = plan.section
    if symmetric:
        return (Strip(section.h_mm, width_mm, 2),)
    sizes = [min(side.thickness_mm, 2 * section.thin_mm) for side in section.sides]
    kind = catalogue.load_joint_kinds().get(str(plan.joint.get("joint")))
    arms = kind.through_arms if kind is not None else 1
    first, second = sizes[0], sizes[1]
    if arms == 1 and len(sizes) == 2 and first == second:
        return (Strip(first, width_mm, 2, 0, 1.0, bar_mm),)
    share = 0.5
    if section.unlike:
        share = 1 - THICK_SHARE if first < second else THICK_SHARE
    strips = [
        Strip(first, width_mm, 1, 1, share, bar_mm),
        Strip(second, width_mm, 1, -1, 1 - share, bar_mm),
    ]
    # The far arm of a through member and a third member are behind the joint.
    behind = [second] * (arms - 1) + sizes[2:]
    strips += [Strip(size, width_mm, 1, -1, 0.0, None) for size in behind]
    return tuple(strips)


def _build_arc(plan: Plan, trial: Trial, constant: bool) -> Arc:
    """Return the arc of a plan with the settings of a trial."""
    train, peak = _choose_train(plan, trial)
    travel = trial.travel_mm_s or plan.travel.speed_mm_s
    return Arc(
        peak_a=peak,
        train=train,
        travel_mm_s=travel,
        voltage_v=ARC_VOLTAGE_V,
        efficiency=ARC_EFFICIENCY,
        start_width_mm=START_SHARE * plan.travel.pool_width_mm,
        max_start_s=0.0 if constant else MAX_START_S,
        taper_s=0.0 if constant else (plan.slopes.down_s or TAPER_S),
    )


def _choose_train(plan: Plan, trial: Trial) -> tuple[PulseTrain, float]:
    """Return the pulse and its peak, A."""
    pulse = plan.pulse
    pulsed = pulse.pulsed if trial.pulsed is None else trial.pulsed
    if not pulsed:
        unpulsed = pulse.average_a if pulse.pulsed else pulse.peak_a
        return STEADY_ARC, trial.current_a or unpulsed
    slow = catalogue.load_pulse_patterns()["slow-cold"]
    planned = build_pulse_train(pulse)
    if not pulse.pulsed:
        planned = PulseTrain(
            slow.rate_pps or 1.5, (slow.on_pct or 30) / 100, (slow.background_pct or 10) / 100
        )
    peak = trial.current_a or (
        pulse.peak_a if pulse.pulsed else pulse.peak_a * (slow.peak_factor or 1.0)
    )
    return (
        PulseTrain(
            trial.rate_pps or planned.rate_pps,
            planned.on if trial.on_pct is None else trial.on_pct / 100,
            planned.background if trial.background_pct is None else trial.background_pct / 100,
        ),
        peak,
    )
