"""Which pattern of the pulse, and how many a second."""

from __future__ import annotations

from dataclasses import dataclass, replace

from .. import catalogue
from ..catalogue.rows import PulsePattern
from ..joint import Joint
from ..pulse_train import flickers, overlap_pct, pitch_mm
from ..quantities import length, speed
from ..reasons import Caution, Other, Reason, caution, instead, note, practice, ruled, say
from ..section import Section
from ..shop import Shop
from .back import Back
from .pool import ARC_LENGTH_MM, pool_width_mm

LEAST_OVERLAP_PCT = 25.0
RAISED_RATE_PPS = 2.0
LONG_SEAM_MM = 150.0
THIN_WALL_MM = 1.0
STOUT_EDGE_MM = 2.0
CLOSE_GAP_MM = 0.05


@dataclass(frozen=True)
class Pattern:
    """The pattern, its rate 1/s, and what speaks for and beside it: taken up by travel and pulse."""

    row: PulsePattern
    rate_pps: float | None
    why: tuple[Reason, ...]
    others: tuple[Other, ...]
    cautions: tuple[Caution, ...]

    @property
    def rippled(self) -> bool:
        """Whether the travel follows the ripple."""
        return self.row.has("rippled")


def choose_pattern(joint: Joint, section: Section, shop: Shop, back: Back) -> Pattern:
    """Choose the pattern of the pulse and its rate. Common practice."""
    if joint.pulse == "auto":
        row, reason = _own(joint, section, shop)
    else:
        row, reason = catalogue.pulse_patterns()[joint.pulse], practice("Pulse set by hand.")
    pattern = Pattern(
        row=row, rate_pps=joint.pinned("rate_pps", row.rate_pps) if row.rate_pps else None, why=(reason,), others=(),
        cautions=tuple(_cautions(joint, shop, back, row)),
    )  # fmt: skip
    if joint.travel_mm_s is not None:
        pattern = _fit_rate(pattern, joint.travel_mm_s, pool_width_mm(joint, section), "rate_pps" in joint.pins)
    why = (*pattern.why, practice("{use} {cost}", use=pattern.row.use, cost=pattern.row.cost), *_against_gravity(joint))
    flicker = _flicker() if pattern.rate_pps and flickers(pattern.rate_pps) else ()
    return replace(pattern, why=why, others=tuple(_others(joint, pattern.row)), cautions=(*pattern.cautions, *flicker))


_RULE = (
    "first that fits: no pulse but a remote → by pedal; neither → none; a metal that takes no chill → none; gap, cope or tube wall under 1 mm → fast; "
    "edge or corner from 2 mm → focused; edge or corner from 150 mm long → slow and cold; else none"
)


def _own(joint: Joint, section: Section, shop: Shop) -> tuple[PulsePattern, Reason]:
    key, reason = _first_that_fits(joint, section, shop)
    row = catalogue.pulse_patterns()[key]
    return row, ruled(
        reason, _RULE, "{joint}, {t}, {long} long, gap {gap}: {name}", joint=joint.kind.name, t=length(section.thin_mm),
        long=length(section.length_mm), gap=length(joint.gap_mm), name=row.name,
    )  # fmt: skip


def _first_that_fits(joint: Joint, section: Section, shop: Shop) -> tuple[str, Reason]:
    if not shop.machine_pulses:
        if joint.remote:
            return "pedal", practice("The machine cannot pulse: dab with the pedal.")
        return "none", practice("The machine cannot pulse and has no remote: steady, 5 % less and faster.")
    chilled = next((m.key for m in joint.metals if m.has("no_chill")), None)
    if chilled:
        return "none", practice("{metal} cools too fast under a slow pulse: steady.", metal=chilled)
    thin_tube = any(m.form == "tube" and m.thickness_mm < THIN_WALL_MM for m in joint.members[:2])
    if joint.gap_mm > CLOSE_GAP_MM or joint.kind.has("cope") or thin_tube:
        words = "A gap, a cope or thin tube wall: fast pulse puts in a little less heat and bridges better."
        return "fast", practice(words)
    along_edge = joint.kind.has("along_edge")
    if along_edge and section.thin_mm >= STOUT_EDGE_MM:
        return "focused", practice("An edge in thicker sheet: a stiff arc does not wander to the edge.")
    if along_edge and section.length_mm >= LONG_SEAM_MM:
        words = "Long {joint} in thin sheet: slow and cold keeps it flat and near silver."
        return "slow-cold", practice(words, joint=joint.kind.name)
    return "none", practice("Good fit-up takes no pulse: smoother, less to fool with.")


def _fit_rate(pattern: Pattern, travel: float, width: float, rate_by_hand: bool) -> Pattern:
    """A typed travel that leaves less than 25 % overlap raises the rate to 2, else drops the pulse."""
    rate = pattern.rate_pps
    if not pattern.rippled or not rate or overlap_pct(pitch_mm(travel, rate), width) >= LEAST_OVERLAP_PCT:
        return pattern
    if not rate_by_hand and overlap_pct(pitch_mm(travel, RAISED_RATE_PPS), width) >= LEAST_OVERLAP_PCT:
        raised = practice("At {v} the ripples would part: the rate is raised to 2 a second.", v=speed(travel))
        return replace(pattern, rate_pps=RAISED_RATE_PPS, why=(*pattern.why, raised))
    words = "At {v} not even 2 a second laps a quarter: {s} is dropped for a steady arc."
    dropped = practice(words, v=speed(travel), s=pattern.row.name)
    steady = catalogue.pulse_patterns()["none"]
    return replace(pattern, row=steady, rate_pps=None, why=(*pattern.why, dropped))


def _against_gravity(joint: Joint) -> tuple[Reason, ...]:
    if not joint.position.small_pool:
        return ()
    words = "{position}: the order of pulses stays; where the pool sags, a slow pulse lets it freeze between, and the arc is {arc} at most."
    return (practice(words, position=joint.position.name.capitalize(), arc=length(ARC_LENGTH_MM)),)


def _flicker() -> tuple[Caution, ...]:
    words = "Between 2 and 30 pulses a second the flicker tires the eye and no hand keeps time with it; 3 to 30 is a risk in photosensitive epilepsy. Stay at 2 or under, or at 30 or over."
    return (caution("pulse-flicker", "pulse", words),)


def _cautions(joint: Joint, shop: Shop, back: Back, row: PulsePattern) -> list[Caution]:
    found: list[Caution] = []
    chilled = next((m.key for m in joint.metals if m.has("no_chill")), None)
    if row.has("chills") and chilled:
        words = "A slow, cold pulse cools {metal} too fast: too much ferrite stays. Steady instead."
        found.append(caution("chill-on-duplex", "pulse", words, metal=chilled))
    if row.has("chills") and not back.barred:
        words = "Slow and cold belongs with chill bars; without them it keeps less of its gain."
        found.append(note("pulse-without-bars", "pulse", words))
    if not row.has("steady") and not shop.machine_pulses:
        found.append(caution("machine-no-pulse", "pulse", "The machine cannot pulse. By pedal gives the same look."))
    return found


def _others(joint: Joint, taken: PulsePattern) -> list[Other]:
    return [
        instead(
            say("{name}", name=row.name), {"pulse": row.key}, "{use} {cost}", school="pulse", use=row.use, cost=row.cost
        )
        for row in catalogue.pulse_patterns().values()
        if row is not taken and (joint.remote or not row.has("by_foot"))
    ]
