"""Distortion of the sheet next to a seam, and what counters it.

An estimate with its uncertainty. F = 0.2 · q/v kN, with the net heat input q/v in J/mm, and 1.25 to
1.4 times that in austenitic sheet (White and Leggatt's tendon force, from memory). σ = F/(B t) over
the sheet on both sides, against the buckling stress of a plate whose far edge is free or joined. An
outside corner also bows as an angle section, and a fillet on one side pulls the angle.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..catalogue.rows import Thermal
from ..joint.joint import Joint, Pins
from ..physics.distortion import (
    FREE_K,
    JOINED_K,
    MAX_PULL_DEG,
    MIN_PULL_DEG,
    TENDON_KN,
    angular_pull_deg,
    buckling_mpa,
    build_angle_section,
    camber_mm,
    estimate_free_width_mm,
    tendon_kn,
)
from ..physics.heat_field import wait_below_s
from ..plan.arc.plan_field import build_heat_field
from ..plan.plan import Plan, make_plan
from ..quantities import Quantity, length
from ..reasons import Estimate, Practice, Published, Reason, Sentence, WithFormula, Words
from ..shop.shop import Shop
from .bench_state import Task
from .job import Job, Seam

# The ratings of a bow, as the length over it; the share of the angular pull that is left between
# clamps and bars; the temperature that a hand can touch. Estimates, the last common practice.
FLAT_SPAN, WATCH_SPAN = 400.0, 200.0
HELD_SHARE = 0.5
COOL_TO_TOUCH_C = 50.0
YIELD_MPA = 250.0
MIN_CHILL_FACTOR, MIN_RUN_LENGTH_FACTOR = 0.4, 0.5
FLAT, WATCH, BOW = "flat", "watch", "will-bow"
RANKS = (FLAT, WATCH, BOW)
JOINED = "joined"
VERDICTS = {FLAT: "stays flat", WATCH: "may bow", BOW: "will bow"}
# Tested levers: this increase of travel speed, and runs of this length. A smaller effect is not
# offered. Estimates.
FASTER = 1.3
RUN_MM = 60.0
WORTH = 0.97


def list_reasons() -> tuple[Reason, ...]:
    """Return the reasons for the distortion of a seam, each with its source."""
    steel = catalogue.load_thermals()["austenitic"]
    low, high = f"{steel.tendon_low:g}", f"{steel.tendon_high:g}"
    verdict = (
        "Flat if the upper stress is below the buckling limit. Will bow if the lower "
        "stress is above it. Otherwise it may bow."
    )
    return (
        WithFormula(
            Published(
                "white-leggatt-1976", "The shrinkage force is in proportion to the net heat input."
            ),
            "F = 0.2 · q/v kN, q/v in J/mm",
            "{f} · q/v",
            f=f"{TENDON_KN:g}",
        ),
        Estimate(
            "tendon-spread",
            "On austenitic sheet the force is {l} to {h} times that. {v}",
            l=low,
            h=high,
            v=verdict,
        ),
        WithFormula(
            Estimate(
                "buckling-free-edge",
                "The sheet next to the seam buckles as a plate, with its far edge free or joined.",
            ),
            "σcr = k π² E / (12 (1 − ν²)) · (t/b)²",
            "k = {k} free, {j} folded or joined to another sheet",
            k=f"{FREE_K:g}",
            j=f"{JOINED_K:g}",
        ),
        WithFormula(
            Estimate(
                "corner-camber",
                "An outside corner bows as an angle section. Up to L/{f} counts as flat, beyond "
                "L/{w} it bows.",
                f=f"{FLAT_SPAN:g}",
                w=f"{WATCH_SPAN:g}",
            ),
            "bow = F e L² / (8 E I)",
            "e distance of the seam from the centroid, I second moment of the section",
        ),
        Estimate(
            "angular-pull",
            "A fillet on one side pulls the angle by {low} to {high}°, less between clamps.",
            low=MIN_PULL_DEG,
            high=f"{MAX_PULL_DEG:g}",
        ),
        Estimate(
            "tendon-chilled",
            (
                "Bars limit the shrinking strip to their cold wall. The ends of short runs "
                "pull half."
            ),
        ),
        Practice("Tacks without chill bars show more than the seam."),
    )


class Warp(Struct, frozen=True):
    """The distortion of a seam.

    Pull kN and stress MPa (minimum, maximum), buckling stress MPa, free width mm and whether it was
    entered, whether the far edges are joined, the bow of an outside corner mm (minimum, maximum) or
    None, the length of the seam mm, the angle that a fillet pulls ° or None, and the verdict.
    """

    force_kn: tuple[float, float]
    stress_mpa: tuple[float, float]
    buckles_mpa: float
    free_mm: float
    told: bool
    joined: bool
    camber_mm: tuple[float, float] | None
    length_mm: float
    pull_deg: float | None
    verdict: str

    @property
    def ratio(self) -> float:
        """Return the greater ratio to its limit: of the stress to buckling, or of the bow to L/200.

        Both at the minimum of the range.
        """
        buckling = self.stress_mpa[0] / self.buckles_mpa
        if self.camber_mm is None:
            return buckling
        return max(buckling, self.camber_mm[0] * WATCH_SPAN / self.length_mm)


class Lever(Struct, frozen=True):
    """A measure that changes the pull of a seam: its text, and the resulting distortion."""

    what: str
    words: Words
    warp: Warp


class Pull(Struct, frozen=True):
    """The pull of all seams by side, kN.

    It includes the maximum lead of one side during the work, kN, with its seam.
    """

    left_kn: float
    middle_kn: float
    right_kn: float
    lean_kn: float
    most_kn: float
    most_after: str


def is_enclosed(job: Job, seam: Seam) -> bool:
    """Return whether the far edges of both parts of a seam are joined by other seams of the job.

    Args:
        job: The job.
        seam: The seam.
    """
    others = [s for s in job.seams if s.key != seam.key]
    return len(seam.joins) > 1 and all(
        any(part in s.joins and set(s.joins) != set(seam.joins) for s in others)
        for part in seam.joins
    )


def calculate_warp(
    plan: Plan, free_mm: float | None, short_mm: float | None = None, joined: bool = False
) -> Warp | None:
    """Calculate the distortion of a seam.

    Return None without sheet next to it, or for a closed seam.

    Args:
        plan: The plan.
        free_mm: Free width on one side, mm, or None if unknown.
        short_mm: Length of each run if the seam is welded in several, mm.
        joined: Whether other seams join the far edges, in addition to the entry of the joint.
    """
    section = plan.section
    sheets = [
        i
        for i, side in enumerate(section.sides[:2])
        if side.form == "sheet" and not section.all_round
    ]
    if not sheets:
        return None
    free = estimate_free_width_mm(section.length_mm) if free_mm is None else free_mm
    thin = min(sheets, key=lambda i: section.sides[i].thickness_mm)
    thermal, t = _find_thermal(plan, thin), section.sides[thin].thickness_mm
    area = sum(free * section.sides[i].thickness_mm for i in sheets)
    net, upper = (
        plan.heat.heat_input_en_kj_mm * 1e3,
        plan.heat.high_voltage_v / plan.heat.arc_voltage_v,
    )
    forces = []
    for factor, more in ((thermal.tendon_low, 1.0), (thermal.tendon_high, upper)):
        full = tendon_kn(net * more, factor)
        strip = full * 1e3 / (2 * YIELD_MPA * section.h_mm)
        forces.append(
            full
            * _get_chill_factor(plan, strip)
            * _get_short_run_factor(strip, min(section.length_mm, short_mm or section.length_mm))
        )
    low, high = forces
    joined = joined or plan.joint.get("far_edge") == JOINED
    stress = (low * 1e3 / area, high * 1e3 / area)
    buckles = buckling_mpa(thermal.young_gpa, t, free, JOINED_K if joined else FREE_K)
    verdict = BOW if stress[0] > buckles else FLAT if stress[1] <= buckles else WATCH
    camber = _calculate_camber(plan, thermal, free, forces) if len(sheets) == 2 else None
    if camber is not None:
        verdict = max(verdict, _rate_camber(camber, section.length_mm), key=RANKS.index)
    return Warp(
        force_kn=(low, high),
        stress_mpa=stress,
        buckles_mpa=buckles,
        free_mm=free,
        told=free_mm is not None,
        joined=joined,
        camber_mm=camber,
        length_mm=section.length_mm,
        pull_deg=_calculate_angular_pull(plan, net),
        verdict=verdict,
    )


def _calculate_camber(
    plan: Plan, thermal: Thermal, free: float, forces: Sequence[float]
) -> tuple[float, float] | None:
    """Return the bow of an outside corner, mm, from the forces in kN, or None for another joint."""
    if plan.section.shape != "corner":
        return None
    angle = build_angle_section(free, plan.section.thin_mm, plan.section.angle_deg)
    low, high = (
        camber_mm(angle, force, thermal.young_gpa, plan.section.length_mm) for force in forces
    )
    return low, high


def _rate_camber(camber: tuple[float, float], long: float) -> str:
    """Return the verdict of a bow, by the span in mm over it."""
    if camber[0] > long / WATCH_SPAN:
        return BOW
    return FLAT if camber[1] <= long / FLAT_SPAN else WATCH


def _calculate_angular_pull(plan: Plan, net: float) -> float | None:
    """Return the angle that a fillet on one side pulls, °, by its net heat in J/mm, or None."""
    if plan.filler.leg_mm is None:
        return None
    pull = angular_pull_deg(net, plan.section.thin_mm)
    return pull * (HELD_SHARE if plan.back.barred else 1.0)


def list_counters(plan: Plan, warp: Warp, measured_mm: Sequence[float] = ()) -> list[Words]:
    """Return what counters the distortion of a seam, in figures.

    A bow that was measured on the last run sets the next preset.

    Args:
        plan: The plan.
        warp: Its distortion.
        measured_mm: Bows measured on its runs, mm, the last one last.

    References:
        Common practice; the figures are estimates.
    """
    out: list[Words] = []
    if measured_mm:
        text = "Preset: clamp it with a bow of {b} the other way, as measured on the last run."
        out.append(Sentence(text, b=length(measured_mm[-1])))
    elif warp.camber_mm is not None and _rate_camber(warp.camber_mm, warp.length_mm) != FLAT:
        text = "Preset: clamp it with a bow of {b} the other way, and measure the first piece."
        out.append(Sentence(text, b=length(warp.camber_mm[0])))
    if warp.pull_deg is not None:
        text = (
            "Preset: set the upright {a}° away from the weld. The fillet pulls about that much, "
            "{low} to {high}° on thin sheet."
        )
        figures = {"a": f"{warp.pull_deg:.1f}", "low": MIN_PULL_DEG, "high": f"{MAX_PULL_DEG:g}"}
        out.append(Sentence(text, **figures))
    if warp.verdict == FLAT:
        return out
    pieces = math.ceil(warp.length_mm / RUN_MM - 1e-9)
    if pieces > 1:
        text = (
            "Order: {n} steps of {l} from the middle outwards, each welded back towards the one "
            "before. Change sides after each step."
        )
        out.append(Sentence(text, n=pieces, l=length(warp.length_mm / pieces)))
    text = "Hold the clamps until the metal is cool to touch, below {c}: about {s} s."
    wait = wait_until_c(plan, COOL_TO_TOUCH_C)
    out.append(
        Sentence(text, c=Quantity(COOL_TO_TOUCH_C, "temperature"), s=f"{10 * round(wait / 10):d}")
    )
    out.append(
        Sentence("Afterwards planish the weld lightly on a backing bar. It stretches what shrank.")
    )
    return out


def wait_until_c(plan: Plan, limit_c: float) -> float:
    """Return the time after the arc until the hottest part of the seam is below a limit, s.

    Args:
        plan: The plan.
        limit_c: Limit, °C.
    """
    field = build_heat_field(plan.section, plan.back, plan.travel, plan.pulse)
    return wait_below_s(field, limit_c, None if plan.section.all_round else plan.section.length_mm)


def _find_thermal(plan: Plan, side: int) -> Thermal:
    """Return the heat properties of a side, by kind if the catalogue no longer has the metal."""
    metal = plan.metals[side]
    return catalogue.load_thermals()[
        (
            metal.thermal
            if metal
            else "carbon"
            if plan.section.sides[side].kind == "carbon"
            else "austenitic"
        )
    ]


def _get_chill_factor(plan: Plan, strip_mm: float) -> float:
    """Return the pull that remains with chill bars, as a fraction.

    Estimate.
    """
    wall = build_heat_field(plan.section, plan.back, plan.travel, plan.pulse).wall_mm
    return (
        1.0 if wall is None or strip_mm <= 0 else max(MIN_CHILL_FACTOR, min(1.0, wall / strip_mm))
    )


def _get_short_run_factor(strip_mm: float, run_mm: float) -> float:
    """Return the pull that remains with short runs, as a fraction.

    Estimate.
    """
    return max(MIN_RUN_LENGTH_FACTOR, 1 - strip_mm / run_mm) if run_mm else 1.0


def list_warp_levers(task: Task, shop: Shop, joined: bool = False) -> list[Lever]:
    """Return the measures that reduce the pull, the strongest first.

    Each is a complete plan; shorter runs reduce the pull at their ends.

    Args:
        task: The seam.
        shop: The shop.
        joined: Whether other seams join the far edges.
    """
    free, joint = task.seam.free_mm, task.seam.joint
    base_warp = calculate_warp(task.plan, free, joined=joined)
    if base_warp is None:
        return []
    rows: list[tuple[str, Words, Warp | None]] = []
    if task.plan.section.length_mm > RUN_MM * 1.5:
        rows.append(
            (
                "runs",
                Sentence("in runs of {l}, each started cold", l=length(RUN_MM)),
                calculate_warp(task.plan, free, RUN_MM, joined),
            )
        )
    if joint is not None:
        rows += [
            (label, text, calculate_warp(plan, free, joined=joined))
            for label, text, plan in _list_other_plans(joint, task.plan, shop)
        ]
    better = [
        Lever(label, text, warp)
        for label, text, warp in rows
        if warp and warp.ratio < WORTH * base_warp.ratio
    ]
    return sorted(better, key=lambda lever: lever.warp.ratio)


def _list_other_plans(joint: Joint, plan: Plan, shop: Shop) -> Iterable[tuple[str, Words, Plan]]:
    """Yield the plans of a joint with chill bars, another pulse, and a higher travel speed.

    Plans with a stop are omitted.
    """
    ways = []
    if not plan.back.barred:
        best = max(catalogue.back_covers().values(), key=lambda cover: cover.contact_w_mm2k)
        ways.append(
            ("bars", Sentence("with {b} next to it", b=best.name), replace(joint, back=best.key))
        )
    ways += [
        ("pulse", Sentence("pulsed: {p}", p=row.name), replace(joint, pulse=key))
        for key, row in catalogue.load_pulse_patterns().items()
        if key != plan.pulse.school and not row.has("steady")
    ]
    faster = round(plan.travel.speed_mm_s * FASTER, 2)
    ways.append(
        (
            "pace",
            Sentence("{p} % faster, with more current", p=round(100 * (FASTER - 1))),
            replace(joint, travel_mm_s=faster, pins=Pins()),
        )
    )
    for label, text, other in ways:
        new_plan = make_plan(other, shop)
        if not new_plan.stopped or plan.stopped:
            yield label, text, new_plan


def calculate_pull(job: Job, warps: dict[str, Warp], order: Sequence[str]) -> Pull:
    """Return the pull of all seams by side, and the maximum lead of one side in an order.

    Args:
        job: The job.
        warps: Distortion by seam.
        order: The order.
    """
    sides = {
        side: sum(warps[s.key].force_kn[0] for s in job.seams if s.side == side and s.key in warps)
        for side in ("left", "middle", "right")
    }
    lean, maximum, after = 0.0, 0.0, ""
    for key in order:
        seam = job.seam(key)
        if key in warps and seam.side != "middle":
            pull_kn = warps[key].force_kn[0] / seam.pieces
            lean += pull_kn if seam.side == "left" else -pull_kn
            if abs(lean) > abs(maximum) + 1e-9:
                maximum, after = lean, key
    return Pull(
        sides["left"],
        sides["middle"],
        sides["right"],
        sides["left"] - sides["right"],
        maximum,
        after,
    )
