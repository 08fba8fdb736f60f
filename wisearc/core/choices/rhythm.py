"""The rhythm of the run: school of pulsing, rate, travel and the ripple they leave."""

from __future__ import annotations

from dataclasses import dataclass

from .. import catalogue
from ..catalogue import PulseSchool
from ..pulse_train import flickers, overlap_pct, pitch_mm, travel_for_overlap_mm_s
from ..quantities import length, size, speed
from ..reasons import Caution, Choice, Other, Reason, caution, estimate, note, practice, ruled, say
from .back import Back
from .pool import planned_width_mm
from .so_far import SoFar

OVERLAP_PCT = 35.0
LEAST_OVERLAP_PCT = 25.0
LONG_SEAM_MM = 150.0
ARC_LENGTH_MM = 1.5
_RIPPLED = ("slow-cold", "ripple")
_EDGES = ("edge", "outside-corner")


@dataclass(frozen=True, kw_only=True)
class Rhythm(Choice):
    """School, rate 1/s, travel mm/s, pool width mm, ripple pitch mm and overlap %, arc time s."""

    school: PulseSchool
    rate_pps: float | None
    travel_mm_s: float
    pool_width_mm: float
    pitch_mm: float | None
    overlap_pct: float | None
    arc_time_s: float
    travel_why: tuple[Reason, ...]
    arc_length_mm: float = ARC_LENGTH_MM


def choose(so_far: SoFar) -> Rhythm:
    """Choose school, rate and travel. Schools: common practice; travel when not given: estimate."""
    joint = so_far.joint
    width = planned_width_mm(so_far)
    key, reason = (
        _own_ruled(so_far) if joint.pulse == "auto" else (joint.pulse, practice("School of pulsing set by hand."))
    )
    school = catalogue.pulse_schools()[key]
    why, cautions = [reason], list(_school_cautions(so_far, key))
    rate = joint.pin("rate_pps") or school.rate_pps
    overlap = joint.overlap_pct or OVERLAP_PCT
    travel, travel_why = default_travel(so_far)
    if joint.travel_mm_s is not None:
        travel, travel_why = joint.travel_mm_s, practice("Travel set by hand.")
        school, rate, dropped = _fit_rate(school, rate, travel, width, joint.pin("rate_pps") is not None)
        why += dropped
    elif school.key in _RIPPLED and rate:
        travel = travel_for_overlap_mm_s(rate, width, overlap)
        travel_why = _ripple_reason(rate, width, overlap)
    pitch = pitch_mm(travel, rate) if rate and school.key in (*_RIPPLED, "pedal") else None
    why.append(practice("{use} {cost}", use=school.use, cost=school.cost))
    if joint.position.small_pool:
        why.append(
            practice(
                "{position}: the order of schools stays; where the pool sags, a slow pulse lets it freeze between, and the arc is {arc} at most.",
                position=joint.position.name.capitalize(),
                arc=length(ARC_LENGTH_MM),
            )
        )
    if rate and flickers(rate):
        cautions.append(
            caution(
                "pulse-flicker",
                "pulse",
                "Between 2 and 30 pulses a second the flicker tires the eye and no hand keeps time with it; 3 to 30 is a risk in photosensitive epilepsy. Stay at 2 or under, or at 30 or over.",
            )
        )
    cautions += _travel_cautions(so_far)
    return Rhythm(
        school=school, rate_pps=rate, travel_mm_s=travel, pool_width_mm=width, pitch_mm=pitch,
        overlap_pct=overlap_pct(pitch, width) if pitch else None,
        arc_time_s=so_far.section.length_mm / travel, why=tuple(why), travel_why=(travel_why, _pool_reason(so_far, width)),
        others=tuple(_others(so_far, school.key)), cautions=tuple(cautions),
    )  # fmt: skip


def default_travel(so_far: SoFar) -> tuple[float, Reason]:
    """Travel when not given, mm/s: min(4.2, 5.4/t), × 0.7 for tee, lap, cope, tube to plate. Estimate."""
    t = so_far.section.reckoned_mm
    factor = so_far.joint.kind.speed_factor * so_far.joint.position.speed_factor
    if not so_far.shop.machine_pulses and not so_far.joint.remote:
        factor *= 1.05
    travel = min(4.2, 5.4 / t) * factor
    agree = "; bench rule and heat flow agree at this pace" if len(so_far.joint.members) == 2 else ""
    reason = Reason(
        say("A steady {v} on {t}{agree}.", v=speed(travel), t=length(t), agree=agree),
        "travel-default", "estimate", formula="v = min(4.2, 5.4 / t) × joint factor",
        worked=say("min(4.2, 5.4 / {t}) × {f} = {v}", t=f"{t:.2f}", f=f"{factor:.2f}", v=speed(travel)),
    )  # fmt: skip
    return travel, reason


def _pool_reason(so_far: SoFar, width: float) -> Reason:
    t = so_far.section.reckoned_mm
    small = so_far.joint.position.small_pool
    rule = "w = 2 t, 2 mm at least, 5 mm at most" if small else "w = max(2.0, 2.2 t)"
    said = estimate("pool-width", "Pool aimed for: {w} wide.", w=size(width))
    return ruled(said, rule, "t {t}: {w}", t=length(t), w=size(width))


def _ripple_reason(rate: float, width: float, overlap: float) -> Reason:
    travel = travel_for_overlap_mm_s(rate, width, overlap)
    return Reason(
        say("Travel follows the ripple: {o} % lap at {r} a second on a pool {w} wide.", o=f"{overlap:g}", r=f"{rate:g}", w=size(width)),
        "common-practice", "common-practice", formula="v = rate · width · (1 − overlap)",
        worked=say("{r} × {w} × (1 − {o}) = {v}", r=f"{rate:g}", w=size(width), o=f"{overlap / 100:g}", v=speed(travel)),
    )  # fmt: skip


_RULE = (
    "first that fits: no pulse but a remote → by pedal; neither → none; 2205 → none; gap, cope or tube wall under 1 mm → fast; "
    "edge or corner from 2 mm → focused; edge or corner from 150 mm long → slow and cold; else none"
)


def _own_ruled(so_far: SoFar) -> tuple[str, Reason]:
    key, reason = _own_school(so_far)
    name = catalogue.pulse_schools()[key].name
    section = so_far.section
    return key, ruled(
        reason,
        _RULE,
        "{joint}, {t}, {long} long, gap {gap}: {name}",
        joint=so_far.joint.kind.name,
        t=length(section.thin_mm),
        long=length(section.length_mm),
        gap=length(so_far.joint.gap_mm),
        name=name,
    )


def _own_school(so_far: SoFar) -> tuple[str, Reason]:
    """The default, first that fits. Common practice."""
    joint, section = so_far.joint, so_far.section
    if not so_far.shop.machine_pulses:
        if joint.remote:
            return "pedal", practice("The machine cannot pulse: dab with the pedal.")
        return "none", practice("The machine cannot pulse and has no remote: steady, 5 % less and faster.")
    if "2205" in {m.key for m in joint.metals}:
        return "none", practice("2205 cools too fast under a slow pulse: steady.")
    thin_tube = any(m.form == "tube" and m.thickness_mm < 1.0 for m in joint.members[:2])
    if joint.gap_mm > 0.05 or joint.kind.key == "tube-cope" or thin_tube:
        return "fast", practice(
            "A gap, a cope or thin tube wall: fast pulse puts in a little less heat and bridges better."
        )
    if joint.kind.key in _EDGES and section.thin_mm >= 2.0:
        return "focused", practice("An edge in thicker sheet: a stiff arc does not wander to the edge.")
    if joint.kind.key in _EDGES and section.length_mm >= LONG_SEAM_MM:
        return "slow-cold", practice(
            "Long {joint} in thin sheet: slow and cold keeps it flat and near silver.", joint=joint.kind.name
        )
    return "none", practice("Good fit-up takes no pulse: smoother, less to fool with.")


def _fit_rate(
    school: PulseSchool, rate: float | None, travel: float, width: float, pinned: bool
) -> tuple[PulseSchool, float | None, list[Reason]]:
    """A typed travel that leaves less than 25 % overlap raises the rate to 2, else drops the school."""
    if school.key not in _RIPPLED or not rate:
        return school, rate, []
    if overlap_pct(pitch_mm(travel, rate), width) >= LEAST_OVERLAP_PCT:
        return school, rate, []
    if not pinned and overlap_pct(pitch_mm(travel, 2.0), width) >= LEAST_OVERLAP_PCT:
        return (
            school,
            2.0,
            [practice("At {v} the ripples would part: the rate is raised to 2 a second.", v=speed(travel))],
        )
    steady = catalogue.pulse_schools()["none"]
    return (
        steady,
        None,
        [
            practice(
                "At {v} not even 2 a second laps a quarter: {s} is dropped for a steady arc.",
                v=speed(travel),
                s=school.name,
            )
        ],
    )


def _school_cautions(so_far: SoFar, key: str) -> list[Caution]:
    joint, found = so_far.joint, []
    if key == "slow-cold" and "2205" in {m.key for m in joint.metals}:
        found.append(
            caution(
                "chill-on-duplex",
                "pulse",
                "A slow, cold pulse cools 2205 too fast: too much ferrite stays. Steady instead.",
            )
        )
    if key == "slow-cold" and not so_far.get(Back).barred:
        found.append(
            note(
                "pulse-without-bars",
                "pulse",
                "Slow and cold is a school of chill bars; without them it keeps less of its gain.",
            )
        )
    if key not in ("none", "pedal") and not so_far.shop.machine_pulses:
        found.append(caution("machine-no-pulse", "pulse", "The machine cannot pulse. By pedal gives the same look."))
    return found


def _travel_cautions(so_far: SoFar) -> list[Caution]:
    joint = so_far.joint
    if joint.position.key == "vertical-down" and (so_far.section.thin_mm > 1.5 or joint.filler not in ("auto", "none")):
        return [
            caution(
                "vertical-down",
                "travel",
                "Going down is sound for bare-fit sheet up to {t} only: the pool runs ahead of the arc. Go up.",
                t=length(1.5),
            )
        ]
    return []


def _others(so_far: SoFar, key: str) -> list[Other]:
    options = [
        s
        for s in catalogue.pulse_schools().values()
        if s.key != key and not (s.key == "pedal" and not so_far.joint.remote)
    ]
    return [
        Other(
            say("{name}", name=s.name),
            say("{use} {cost}", use=s.use, cost=s.cost),
            "common-practice",
            "common-practice",
            {"pulse": s.key},
            school="pulse",
        )
        for s in options
    ]
