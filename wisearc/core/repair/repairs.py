"""The repair of a flaw on the real part: what to remove, what to weld, how often, when to stop.

Common practice, no source; margins, shares and counts are estimates unless the text names a
standard. Pressure, lifting, structural, food and medical work need their code.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from .. import catalogue
from ..catalogue.reading import RepairRow
from ..plan.filler_metal.service import get_preheat_c, is_data_food, is_data_in_liquid
from ..plan.plan import Plan
from ..plan.preparation.technique import describe_rust_removal
from ..plan.shielding.back import is_data_closed
from ..quantities import Quantity
from ..reasons import Estimate, Filled, Practice, Published, Reason, Sentence, Words
from ..run.inspection import EMPTY_INSPECTION
from ..run.latest_inspection import find_flaws, is_oxidised
from ..run.recorded_repair import SCRAPPED, RecordedRepair
from ..run.run import Run
from ..weld_session.steps import pool_limit_s, taper_s

# The least margin beyond a flaw, and the overlap onto sound bead, mm: estimates.
MIN_MARGIN_MM, OVERLAP_MM = 3.0, 10.0
# A hole up to this number of thicknesses is filled: estimate, about the pool a thin sheet carries.
HOLE_IN_T = 3.0
# A tack that replaces a cracked one is this much longer: estimate.
TACK_LONGER = 1.5
# The usual number of repairs at one place, and the number where heat harms the metal.
USUAL_REPAIRS, SENSITIVE_REPAIRS = 2, 1
# ISO 5817 for 0.5 to 3 mm, from memory: undercut of level C, step and height of level B.
UNDERCUT_SHARE, STEP_MM, STEP_SHARE, HEIGHT_MM, HEIGHT_SHARE = 0.1, 0.2, 0.1, 1.0, 0.1
REPAIR, ONE_LEFT, SCRAP = "repair", "last", "scrap"
# The caution of every repair.
GRINDING_HAZARD = (
    "Dust of ground stainless contains chromium and nickel. Wear goggles and a mask, extract the "
    "dust, and let hot metal cool."
)


class Repair(Struct, frozen=True):
    """The repair of one flaw.

    Attributes:
        flaw: Key of the flaw, "sugar" for an oxidised root.
        name: Its name as an instruction.
        state: "repair", "last" (the last one allowed at this place) or "scrap".
        warning: The sentence of a state other than "repair", or None.
        steps: The steps in order.
        limit: When a repair is not worth it.
        why: The number of repairs and its reason, and the sources of all figures.
        length_mm: Length to prepare, mm, or None if the place is unknown.
        done: Number of recorded repairs of this flaw at this place.
        allowed: Maximum number.
    """

    flaw: str
    name: str
    state: str
    warning: Words | None
    steps: tuple[Words, ...]
    limit: Words
    why: tuple[Reason, ...]
    length_mm: float | None
    done: int
    allowed: int

    @property
    def length(self) -> Quantity | None:
        """Return the length to prepare, or None."""
        return None if self.length_mm is None else Quantity(self.length_mm, "size")


def list_repairs(plan: Plan, run: Run) -> tuple[Repair, ...]:
    """Return the repair of each flaw of a run that can be repaired on the part.

    Args:
        plan: The plan of the run.
        run: The run, with its inspection and earlier repairs.
    """
    flaws = [*(find_flaws(run) or ()), *([catalogue.OXIDISED_ROOT] if is_oxidised(run) else [])]
    rows = catalogue.load_repairs()
    return tuple(
        _build_repair(rows[flaw], plan, run) for flaw in dict.fromkeys(flaws) if flaw in rows
    )


def _build_repair(row: RepairRow, plan: Plan, run: Run) -> Repair:
    facts, figures = find_facts(plan), _list_figures(row, plan)
    allowed, why = count_allowed(plan)
    ends = _find_ends_mm(row, plan, run)
    earlier = [repair for repair in run.repairs if repair.flaw == row.key]
    done = _count_at_place(earlier, ends)
    is_scrapped = any(repair.result == SCRAPPED for repair in earlier)
    state = SCRAP if is_scrapped or done >= allowed else ONE_LEFT if done + 1 == allowed else REPAIR
    return Repair(
        row.key,
        row.name,
        state,
        _describe_state(state, is_scrapped, done),
        tuple(
            Sentence(step.words, **figures)
            for step in row.steps
            if all(_holds(fact, facts) for fact in step.when)
        ),
        Sentence(row.limit, **figures),
        _list_reasons(row, why),
        None if ends is None else ends[1] - ends[0],
        done,
        allowed,
    )


def _describe_state(state: str, is_scrapped: bool, done: int) -> Words | None:
    if is_scrapped:
        return Sentence("The part was scrapped. Do not repair it again.")
    if state == SCRAP:
        text = "This place was repaired {n}, the maximum. Cut the seam out, or scrap the part."
        return Sentence(text, n="once" if done == 1 else f"{done} times")
    return Sentence("This is the last repair for this place.") if state == ONE_LEFT else None


def _list_reasons(row: RepairRow, why: Words) -> tuple[Reason, ...]:
    """Return the evidence of a repair: its number, its figures, and a published limit."""
    reasons: list[Reason] = [
        Practice(why.text()),
        Estimate("repair-figures", "Margins, currents and the maximum number are estimates."),
    ]
    if row.source:
        reasons.append(Published(row.source, "The limit is the one for metal of 0.5 to 3 mm."))
    return tuple(reasons)


def _count_at_place(earlier: Sequence[RecordedRepair], ends: tuple[float, float] | None) -> int:
    """Return the number of recorded repairs at one place.

    It is the place of the flaw, between its ends in mm, or else the place with most repairs. A
    repair without a place counts at every place.
    """
    unknown = sum(repair.at_mm is None for repair in earlier)
    places = [repair.at_mm for repair in earlier if repair.at_mm is not None]
    if ends is not None:
        return unknown + sum(ends[0] <= place <= ends[1] for place in places)
    near = [sum(abs(place - other) <= OVERLAP_MM for other in places) for place in places]
    return unknown + max(near, default=0)


def _holds(fact: str, facts: Mapping[str, bool]) -> bool:
    return not facts[fact[1:]] if fact.startswith("!") else facts[fact]


def find_facts(plan: Plan) -> dict[str, bool]:
    """Return the facts of a plan on which the steps of a repair depend, by name.

    Args:
        plan: The plan.
    """
    metals = [metal for metal in plan.metals if metal is not None]
    return {
        "purged": plan.back.purged,
        "reachable": not is_data_closed(plan.joint),
        "hardens": any(metal.has("hardens") for metal in metals),
        "food": is_data_food(plan.joint),
    }


def count_allowed(plan: Plan) -> tuple[int, Words]:
    """Return how often one place may be repaired, with the reason.

    Args:
        plan: The plan.
    """
    metals = [metal for metal in plan.metals if metal is not None]
    reasons = (
        ("hardens", True, "Repair one place once: each repair hardens the metal beside it."),
        (
            "duplex",
            True,
            "Repair one place once: more heat changes the balance of ferrite and austenite.",
        ),
        (
            "sensitises",
            is_data_in_liquid(plan.joint),
            "Repair one place once: with more heat it corrodes next to the weld.",
        ),
    )
    for trait, applies, text in reasons:
        if applies and any(metal.has(trait) for metal in metals):
            return SENSITIVE_REPAIRS, Sentence(text)
    if is_data_food(plan.joint):
        text = "Repair one place once in food contact: every repair leaves places to clean."
        return SENSITIVE_REPAIRS, Sentence(text)
    text = "Repair one place twice at most: each repair heats and pulls the part again."
    return USUAL_REPAIRS, Sentence(text)


def find_repair_rod(plan: Plan) -> Words:
    """Return the rod of a repair: the planned one, or the first proper one of a plan without rod.

    Args:
        plan: The plan.
    """
    filler = plan.filler
    if filler.rod:
        diameter = Quantity(filler.diameter_mm or 0.0, "stock")
        return Sentence("{rod} of {d}", rod=filler.rod, d=diameter)
    others = (other.sets.get("filler") for other in filler.others)
    rod = next((str(name) for name in others if name not in (None, "none", "auto")), "")
    return Sentence("{rod}", rod=rod) if rod else Sentence("a strip sheared from the same sheet")


def _list_figures(row: RepairRow, plan: Plan) -> dict[str, Filled]:
    section, thin = plan.section, plan.section.thin_mm
    purge, tacks = plan.back.purge, plan.tacks
    metals = [metal for metal in plan.metals[:2] if metal is not None]
    low, high = get_preheat_c(section.thick_mm)
    steady = plan.current.steady_a
    return {
        "margin": Quantity(_get_margin_mm(row, thin), "size"),
        "hole": Quantity(HOLE_IN_T * thin, "size"),
        "current": Sentence(
            "{a} at the arc without pulse", a=Quantity(row.share * steady, "current")
        ),
        "rod": find_repair_rod(plan),
        "purge": Quantity(purge.before_s if purge else 0.0, "duration"),
        "overlap": Quantity(OVERLAP_MM, "size"),
        "cut": Quantity(max(_get_margin_mm(row, thin), plan.travel.pool_width_mm), "size"),
        "gap": Quantity(plan.fit_up.max_gap_mm, "length"),
        "tack": Quantity(TACK_LONGER * tacks.length_mm, "size"),
        "tack_current": Quantity(tacks.current_a, "current"),
        "preheat": Sentence(
            "{a} to {b}", a=Quantity(low, "temperature"), b=Quantity(high, "temperature")
        ),
        "undercut": Quantity(UNDERCUT_SHARE * thin, "length"),
        "step": Quantity(STEP_MM + STEP_SHARE * thin, "length"),
        "height": Quantity(HEIGHT_MM + HEIGHT_SHARE * plan.travel.pool_width_mm, "length"),
        "pitch": Quantity(tacks.pitch_mm, "size"),
        "pool": Quantity(pool_limit_s(plan), "seconds"),
        "taper": Quantity(taper_s(plan), "seconds"),
        "clean": describe_rust_removal(metals),
    }


def _get_margin_mm(row: RepairRow, thin_mm: float) -> float:
    """Return the metal to remove beyond each end of a flaw, mm."""
    return max(MIN_MARGIN_MM, row.margin_t * thin_mm)


def _find_ends_mm(row: RepairRow, plan: Plan, run: Run) -> tuple[float, float] | None:
    """Return the length to prepare as its ends, mm: the recorded place with its margins."""
    inspection = run.seen or EMPTY_INSPECTION
    place = inspection.place("back" if row.key == catalogue.OXIDISED_ROOT else row.key)
    if not isinstance(place, tuple):
        return None
    length = plan.travel.length_mm
    margin = _get_margin_mm(row, plan.section.thin_mm)
    return max(0.0, place[0] * length - margin), min(length, place[1] * length + margin)
