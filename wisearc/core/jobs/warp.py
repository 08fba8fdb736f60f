"""Warp: the pull of a seam against what the sheet beside it stands before it buckles. An estimate,
with its spread.

F = 0.2 · q/v kN, q/v the net heat input in J/mm, 1.25 to 1.4 times on austenitic sheet (White and
Leggatt's tendon force, from memory); σ = F/(B t) over the sheet on both sides; σcr = 0.39 E (t/b)²,
b the free width on one side.
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
MIN_CHILL_FACTOR, MIN_SHORT_RUN_FACTOR = 0.4, 0.5
# where nobody said how wide the sheet lies free: half as wide as the seam is long, within these, mm
MIN_FREE_MM, MAX_FREE_MM = 40.0, 150.0
FLAT, WATCH, BOW = "flat", "watch", "will-bow"
SAYS = {FLAT: "stays flat", WATCH: "may bow", BOW: "will bow"}
# what is tried: so much faster, runs so long; a lever that changes less is not offered. Estimates
FASTER = 1.3
RUN_MM = 60.0
WORTH = 0.97


def list_reasons() -> tuple[Reason, ...]:
    """What a seam's warp is reckoned by, each with its source."""
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
    """What a seam does to its sheet: pull kN and stress MPa (from, to), the stress it buckles at
    MPa, free width mm and whether that was told; the verdict.
    """

    force_kn: tuple[float, float]
    stress_mpa: tuple[float, float]
    buckles_mpa: float
    free_mm: float
    told: bool
    verdict: str

    @property
    def ratio(self) -> float:
        """The lower stress over that at which the sheet buckles."""
        return self.stress_mpa[0] / self.buckles_mpa


class Lever(Struct, frozen=True):
    """What changes a seam's pull: what is done, and the warp then."""

    what: str
    words: Words
    warp: Warp


class Pull(Struct, frozen=True):
    """The pull of all seams, kN by side, and how far one side runs ahead on the way, kN, after
    which seam.
    """

    left_kn: float
    middle_kn: float
    right_kn: float
    lean_kn: float
    most_kn: float
    most_after: str


def tendon_kn(net_j_mm: float, times: float = 1.0) -> float:
    """The pull of a seam, kN: 0.2 · q/v. Parameters: net heat input J/mm; how many times that of
    carbon steel. Source: White and Leggatt, from memory.

    >>> round(tendon_kn(93, 1.25), 2)
    23.25
    """
    return TENDON_KN * net_j_mm * times


def buckling_mpa(young_gpa: float, thickness_mm: float, free_mm: float) -> float:
    """The stress a sheet beside a seam buckles at, MPa: 0.39 E (t/b)². Estimate.

    >>> round(buckling_mpa(193, 1.59, 150), 1)
    8.5
    """
    return BUCKLING * young_gpa * 1e3 * (thickness_mm / free_mm) ** 2


def calculate_warp(plan: Plan, free_mm: float | None, short_mm: float | None = None) -> Warp | None:
    """The warp of a seam, None where no sheet lies beside it or it closes on itself. Parameters:
    free_mm, free sheet on one side, None where it was not told; short_mm, how long each run is
    where it is welded in several.
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
    """The row of a side's metal, of its kind where that is no longer in the catalogue."""
    found = plan.metals[side]
    return catalogue.load_thermals()[
        (
            found.thermal
            if found
            else "carbon"
            if plan.section.sides[side].kind == "carbon"
            else "austenitic"
        )
    ]


def _get_chill_factor(plan: Plan, strip_mm: float) -> float:
    """What bars leave of the pull. Estimate."""
    wall = build_heat_field(plan.section, plan.back, plan.travel, plan.pulse).wall_mm
    return (
        1.0 if wall is None or strip_mm <= 0 else max(MIN_CHILL_FACTOR, min(1.0, wall / strip_mm))
    )


def _get_short_run_factor(strip_mm: float, run_mm: float) -> float:
    """What the ends of a run leave of the pull. Estimate."""
    return max(MIN_SHORT_RUN_FACTOR, 1 - strip_mm / run_mm) if run_mm else 1.0


def list_warp_levers(task: Task, shop: Shop) -> list[Lever]:
    """What would pull less, the strongest first: each a plan of its own, all else as it is; shorter
    runs by their ends.
    """
    own, joint = calculate_warp(task.plan, task.seam.free_mm), task.seam.joint
    if own is None:
        return []
    found: list[tuple[str, Words, Warp | None]] = []
    if task.plan.section.length_mm > RUN_MM * 1.5:
        found.append(
            (
                "runs",
                Sentence("in runs of {l}, each started cold", l=length(RUN_MM)),
                calculate_warp(task.plan, task.seam.free_mm, RUN_MM),
            )
        )
    if joint is not None:
        found += [
            (what, words, calculate_warp(plan, task.seam.free_mm))
            for what, words, plan in _list_other_plans(joint, task.plan, shop)
        ]
    better = [
        Lever(what, words, warp)
        for what, words, warp in found
        if warp and warp.ratio < WORTH * own.ratio
    ]
    return sorted(better, key=lambda one: one.warp.ratio)


def _list_other_plans(joint: Joint, plan: Plan, shop: Shop) -> Iterable[tuple[str, Words, Plan]]:
    """The plans of a joint with bars, pulsed otherwise, and faster; those that bring a stop are
    left out.
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
    for what, words, other in ways:
        made = make_plan(other, shop)
        if not made.stopped or plan.stopped:
            yield what, words, made


def pull_of(job: Job, warps: dict[str, Warp], order: Sequence[str]) -> Pull:
    """The pull of all seams by side, and how far one side runs ahead in an order. Parameters:
    warps, by seam, of those that have one.
    """
    sides = {
        side: sum(warps[s.key].force_kn[0] for s in job.seams if s.side == side and s.key in warps)
        for side in ("left", "middle", "right")
    }
    lean, most, after = 0.0, 0.0, ""
    for key in order:
        side = job.seam(key).side
        if key in warps and side != "middle":
            lean += warps[key].force_kn[0] * (1 if side == "left" else -1)
            if abs(lean) > abs(most) + 1e-9:
                most, after = lean, key
    return Pull(
        sides["left"], sides["middle"], sides["right"], sides["left"] - sides["right"], most, after
    )
