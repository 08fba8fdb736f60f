"""Distortion: the pull of a seam against the buckling stress of the sheet.

An estimate with its uncertainty. F = 0.2 · q/v kN, with the net heat input q/v in J/mm, and 1.25 to
1.4 times that in austenitic sheet (White and Leggatt's tendon force, from memory). σ = F/(B t) over
the sheet on both sides. σcr = 0.39 E (t/b)², with the free width b on one side.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..catalogue.rows import Thermal
from ..joint.joint import Joint, Pins
from ..plan.arc.heat import build_heat_field
from ..plan.plan import Plan, make_plan
from ..quantities import length
from ..reasons import Estimate, Practice, Published, Reason, Sentence, WithFormula, Words
from ..shop.shop import Shop
from .bench_state import Task
from .job import Job

TENDON_KN = 0.2
BUCKLING = 0.39
YIELD_MPA = 250.0
MIN_CHILL_FACTOR, MIN_RUN_LENGTH_FACTOR = 0.4, 0.5
# The assumed free width is half of the seam length, within these limits, mm.
MIN_FREE_MM, MAX_FREE_MM = 40.0, 150.0
FLAT, WATCH, BOW = "flat", "watch", "will-bow"
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
                "The sheet next to the seam buckles as a plate with one free edge.",
            ),
            "σcr = 0.39 · E · (t/b)²",
            "{k} · E · (t/b)²",
            k=f"{BUCKLING:g}",
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
    entered, and the verdict.
    """

    force_kn: tuple[float, float]
    stress_mpa: tuple[float, float]
    buckles_mpa: float
    free_mm: float
    told: bool
    verdict: str

    @property
    def ratio(self) -> float:
        """Return the ratio of the minimum stress to the buckling stress."""
        return self.stress_mpa[0] / self.buckles_mpa


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


def tendon_kn(net_j_mm: float, times: float = 1.0) -> float:
    """Return the pull of a seam, kN: 0.2 · q/v.

    Args:
        net_j_mm: Net heat input, J/mm.
        times: Factor relative to carbon steel.

    References:
        White and Leggatt, from memory.

    >>> round(tendon_kn(93, 1.25), 2)
    23.25
    """
    return TENDON_KN * net_j_mm * times


def buckling_mpa(young_gpa: float, thickness_mm: float, free_mm: float) -> float:
    """Return the buckling stress of a sheet next to a seam, MPa: 0.39 E (t/b)².

    Args:
        young_gpa: Young's modulus, GPa.
        thickness_mm: Thickness, mm.
        free_mm: Free width on one side, mm.

    References:
        Estimate.

    >>> round(buckling_mpa(193, 1.59, 150), 1)
    8.5
    """
    return BUCKLING * young_gpa * 1e3 * (thickness_mm / free_mm) ** 2


def calculate_warp(plan: Plan, free_mm: float | None, short_mm: float | None = None) -> Warp | None:
    """Calculate the distortion of a seam.

    Return None without sheet next to it, or for a closed seam.

    Args:
        plan: The plan.
        free_mm: Free width on one side, mm, or None if unknown.
        short_mm: Length of each run if the seam is welded in several, mm.
    """
    section = plan.section
    sheets = [
        i
        for i, side in enumerate(section.sides[:2])
        if side.form == "sheet" and not section.all_round
    ]
    if not sheets:
        return None
    free = (
        free_mm
        if free_mm is not None
        else max(MIN_FREE_MM, min(MAX_FREE_MM, section.length_mm / 2))
    )
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
    stress, buckles = (
        (low * 1e3 / area, high * 1e3 / area),
        buckling_mpa(thermal.young_gpa, t, free),
    )
    verdict = BOW if stress[0] > buckles else FLAT if stress[1] <= buckles else WATCH
    return Warp((low, high), stress, buckles, free, free_mm is not None, verdict)


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


def list_warp_levers(task: Task, shop: Shop) -> list[Lever]:
    """Return the measures that reduce the pull, the strongest first.

    Each is a complete plan; shorter runs reduce the pull at their ends.

    Args:
        task: The seam.
        shop: The shop.
    """
    base_warp, joint = calculate_warp(task.plan, task.seam.free_mm), task.seam.joint
    if base_warp is None:
        return []
    rows: list[tuple[str, Words, Warp | None]] = []
    if task.plan.section.length_mm > RUN_MM * 1.5:
        rows.append(
            (
                "runs",
                Sentence("in runs of {l}, each started cold", l=length(RUN_MM)),
                calculate_warp(task.plan, task.seam.free_mm, RUN_MM),
            )
        )
    if joint is not None:
        rows += [
            (label, text, calculate_warp(plan, task.seam.free_mm))
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
        side = job.seam(key).side
        if key in warps and side != "middle":
            lean += warps[key].force_kn[0] * (1 if side == "left" else -1)
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
