"""How fast: travel, the pool it is for, and the ripple it leaves."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from ..figures import Band, figure
from ..joint import Joint
from ..pulse_train import overlap_pct, pitch_mm, travel_for_overlap_mm_s
from ..quantities import length, size, speed
from ..reasons import Caution, Choice, Reason, caution, estimate, practice, ruled
from ..section import Section
from ..shop import Shop
from .pool import ARC_LENGTH_MM, pool_width_mm
from .pulse_pattern import Pattern

OVERLAP_PCT = 35.0
PACE_MOST_MM_S = 4.2
PACE_BY_MM = 5.4
WITHOUT_REMOTE = 1.05
DOWN_MOST_MM = 1.5


@dataclass(frozen=True, kw_only=True)
class Travel(Choice):
    """Travel mm/s, pool width mm, ripple pitch mm and overlap %, arc time s, arc length mm, the seam's length mm."""

    part: ClassVar[str] = "travel"
    answer: ClassVar[str] = "travel"
    label: ClassVar[str] = "Travel"
    speed_mm_s: float = figure("Travel", "speed", 2, positive=True, compared="Travel", band=Band("travel_mm_s", "Travel", 0.9, 1.1))  # fmt: skip
    pool_width_mm: float = figure("Pool width", "size", 2, positive=True)
    pitch_mm: float | None = figure("Ripple pitch", "size", 2, positive=True)
    overlap_pct: float | None = figure("Overlap", "percent", 1, signed=True)
    arc_time_s: float = figure("Arc time", "duration", 1, positive=True, compared="Arc time")
    arc_length_mm: float = figure("Arc length", "length", positive=True)
    length_mm: float = figure("Seam", "size", 2, positive=True)

    def words(self) -> tuple[str, str]:
        ripple = "; {pitch_mm} a ripple, {overlap_pct} lap" if self.pitch_mm else ""
        return "{speed_mm_s}", "pool {pool_width_mm}, arc {arc_length_mm}" + ripple


def choose_travel(joint: Joint, section: Section, shop: Shop, pattern: Pattern) -> Travel:
    """Choose the travel. Pace when not given: estimate; under a ripple common practice."""
    width, rate = pool_width_mm(joint, section), pattern.rate_pps
    if joint.travel_mm_s is not None:
        travel, reason = joint.travel_mm_s, practice("Travel set by hand.")
    elif pattern.rippled and rate:
        travel, reason = _for_ripple(rate, width, OVERLAP_PCT if joint.overlap_pct is None else joint.overlap_pct)
    else:
        travel, reason = _own(joint, section, shop)
    pitch = pitch_mm(travel, rate) if rate and (pattern.rippled or pattern.row.has("by_foot")) else None
    return Travel(
        speed_mm_s=travel, pool_width_mm=width, pitch_mm=pitch, overlap_pct=overlap_pct(pitch, width) if pitch else None,
        arc_time_s=section.length_mm / travel, arc_length_mm=ARC_LENGTH_MM, length_mm=section.length_mm,
        why=(reason, _pool_reason(joint, section, width)), cautions=_cautions(joint, section),
    )  # fmt: skip


def _own(joint: Joint, section: Section, shop: Shop) -> tuple[float, Reason]:
    """Travel when not given, mm/s: min(4.2, 5.4/t), × 0.7 for tee, lap, cope, tube to plate. Estimate."""
    t = section.reckoned_mm
    factor = joint.kind.speed_factor * joint.position.speed_factor
    if not shop.machine_pulses and not joint.remote:
        factor *= WITHOUT_REMOTE
    travel = min(PACE_MOST_MM_S, PACE_BY_MM / t) * factor
    agree = "; bench rule and heat flow agree at this pace" if len(joint.members) == 2 else ""
    said = estimate("travel-default", "A steady {v} on {t}{agree}.", v=speed(travel), t=length(t), agree=agree)
    worked = {"t": f"{t:.2f}", "f": f"{factor:.2f}", "v": speed(travel)}
    return travel, ruled(said, "v = min(4.2, 5.4 / t) × joint factor", "min(4.2, 5.4 / {t}) × {f} = {v}", **worked)


def _for_ripple(rate: float, width: float, overlap: float) -> tuple[float, Reason]:
    travel = travel_for_overlap_mm_s(rate, width, overlap)
    words = "Travel follows the ripple: {o} % lap at {r} a second on a pool {w} wide."
    said = practice(words, o=f"{overlap:g}", r=f"{rate:g}", w=size(width))
    worked = {"r": f"{rate:g}", "w": size(width), "o": f"{overlap / 100:g}", "v": speed(travel)}
    return travel, ruled(said, "v = rate · width · (1 − overlap)", "{r} × {w} × (1 − {o}) = {v}", **worked)


def _pool_reason(joint: Joint, section: Section, width: float) -> Reason:
    rule = "w = 2 t, 2 mm at least, 5 mm at most" if joint.position.small_pool else "w = max(2.0, 2.2 t)"
    said = estimate("pool-width", "Pool aimed for: {w} wide.", w=size(width))
    return ruled(said, rule, "t {t}: {w}", t=length(section.reckoned_mm), w=size(width))


def _cautions(joint: Joint, section: Section) -> tuple[Caution, ...]:
    fits = section.thin_mm <= DOWN_MOST_MM and joint.filler in ("auto", "none")
    if not joint.position.has("down") or fits:
        return ()
    words = "Going down is sound for bare-fit sheet up to {t} only: the pool runs ahead of the arc. Go up."
    return (caution("vertical-down", "travel", words, t=length(DOWN_MOST_MM)),)
