"""Travel speed, pool width and ripples."""

from typing import Annotated, ClassVar

from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.pulse_train import overlap_pct, pitch_mm
from ...quantities import amps_without_unit, length, size, speed
from ...reasons import Care, Caution, Choice, Estimate, Practice, Reason, WithFix, WithFormula
from ...schema.figures import Band, Figure
from .need import ARC_LENGTH_MM, CurrentModel
from .pulse_pattern import Pattern

MAX_VERTICAL_DOWN_MM = 1.5
TOLERANCE, MAX_DEVIATION = 0.15, 0.35


class Travel(Choice, frozen=True, kw_only=True):
    """The travel speed, mm/s.

    With pool width mm, ripple pitch mm and overlap %, arc time s, arc length mm, seam length mm.
    """

    part: ClassVar[str] = "travel"
    answer: ClassVar[str] = "travel"
    label: ClassVar[str] = "Travel speed"
    speed_mm_s: Annotated[
        float,
        Figure(
            "Travel speed",
            "speed",
            2,
            positive=True,
            compared="Travel speed",
            band=Band("travel_mm_s", "Travel speed", 0.9, 1.1),
        ),
    ]
    pool_width_mm: Annotated[float, Figure("Pool width", "size", 2, positive=True)]
    pitch_mm: Annotated[float | None, Figure("Ripple spacing", "size", 2, positive=True)]
    overlap_pct: Annotated[float | None, Figure("Overlap", "percent", 1, signed=True)]
    arc_time_s: Annotated[
        float, Figure("Arc time", "duration", 1, positive=True, compared="Arc time")
    ]
    arc_length_mm: Annotated[float, Figure("Arc length", "length", positive=True)]
    length_mm: Annotated[float, Figure("Seam", "size", 2, positive=True)]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        ripple = "; ripples {pitch_mm} apart, {overlap_pct} overlap" if self.pitch_mm else ""
        return "{speed_mm_s}", "pool {pool_width_mm}, arc length {arc_length_mm}" + ripple


def choose_travel(
    joint: Joint, section: Section, bare: bool, need: CurrentModel, pattern: Pattern
) -> Travel:
    """Choose the travel speed.

    Autogenous: estimate. With filler: common practice. Slower for a ripple: common practice.

    Args:
        joint: The joint.
        section: Its section.
        bare: Whether the weld is autogenous.
        need: The current model.
        pattern: The pulse pattern.
    """
    travel, width, rate = pattern.speed_mm_s, need.pool_mm, pattern.rate_pps
    pool = pattern.ripple_mm or width
    pitch = (
        pitch_mm(travel, rate) if rate and (pattern.rippled or pattern.row.has("by_foot")) else None
    )
    return Travel(
        speed_mm_s=travel,
        pool_width_mm=width,
        pitch_mm=pitch,
        overlap_pct=overlap_pct(pitch, pool) if pitch else None,
        arc_time_s=section.length_mm / travel,
        arc_length_mm=ARC_LENGTH_MM,
        length_mm=section.length_mm,
        why=(
            *_explain_travel_speed(joint, section, bare, need, pattern),
            _explain_pool(joint, section, bare, width),
        ),
        cautions=(*_check_direction(joint, section, bare), *_check_travel_speed(joint, need)),
    )


def _explain_travel_speed(
    joint: Joint, section: Section, bare: bool, need: CurrentModel, pattern: Pattern
) -> list[Reason]:
    """Return the reasons for the travel speed, with changes by a ripple or a manual value."""
    t, v = section.reckoned_mm, need.speed_mm_s
    text = "A steady {v} on {t}, " + ("without filler." if bare else "with manual rod feed.")
    rule = (
        "v = min(4.2, 5.4 / t), × 0.7 in a corner"
        if bare
        else "v = min(3.0, 4.0 / t) in line, min(2.5, 3.8 / t) in fillets"
    )
    reason = Estimate("travel-default", text, v=speed(v), t=length(t))
    reason_with_rule = WithFormula(
        reason, f"{rule}; × position", "t {t}: {v}", t=length(t), v=speed(v)
    )
    if joint.travel_mm_s is not None:
        return [
            Practice("Travel speed set manually. The calculated speed is {v}.", v=speed(v)),
            reason_with_rule,
        ]
    if pattern.slowed:
        text = "Slowed so that {r:g} per second still overlap {o:g} %."
        return [Practice(text.format(r=pattern.rate_pps, o=pattern.lap_pct)), reason_with_rule]
    return [reason_with_rule]


def _explain_pool(joint: Joint, section: Section, bare: bool, width: float) -> Reason:
    rule = (
        "w = 2.2 t, 2.2 to 6.5 mm"
        if bare
        else "w = 2.8 t, 3.0 to 7.5 mm, in line; 2.4 t, 2.6 to 6.5 mm, in fillets"
    ) + ("; against gravity at most 2 t or 5 mm" if joint.position.small_pool else "")
    reason = Estimate("pool-width", "Target pool width: {w}.", w=size(width))
    return WithFormula(reason, rule, "t {t}: {w}", t=length(section.reckoned_mm), w=size(width))


def _check_direction(joint: Joint, section: Section, bare: bool) -> list[Caution]:
    if not joint.position.has("down") or (bare and section.thin_mm <= MAX_VERTICAL_DOWN_MM):
        return []
    text = (
        "Vertical down suits only sheet up to {t} without filler. The pool runs "
        "ahead of the arc. Weld vertical up."
    )
    item = Care("vertical-down", "travel", text, t=length(MAX_VERTICAL_DOWN_MM))
    return [WithFix(item, "Go up", position=joint.position.other)]


def _check_travel_speed(joint: Joint, need: CurrentModel) -> list[Caution]:
    """Return the cautions for a manual travel speed, by its current."""
    if joint.travel_mm_s is None or abs(off := need.share(joint.travel_mm_s) - 1) <= TOLERANCE:
        return []
    asked = need.steady_a(joint.travel_mm_s)
    figures = {
        "v": speed(joint.travel_mm_s),
        "a": amps_without_unit(asked),
        "b": amps_without_unit(need.base_a),
        "own": speed(need.speed_mm_s),
    }
    if abs(off) > MAX_DEVIATION:
        text = (
            (
                "At {v} the pool needs {a} A, but the seam needs {b}. The pool runs ahead or "
                "does not fuse. Use {own}."
            )
            if off > 0
            else (
                "At {v} the pool needs {a} A, but the seam needs {b}. Heat accumulates, and "
                "the sheet sags, discolours and bows. Use {own}."
            )
        )
    else:
        text = (
            (
                "{v} is fast: the pool needs {a} A, but the seam needs {b}. The arc misses "
                "the edges. Use {own}."
            )
            if off > 0
            else (
                "{v} is slow: the seam gets more heat than it needs, even at {a} A. Colour "
                "and distortion increase. Use {own}."
            )
        )
    return [
        WithFix(
            Care("travel-off", "travel", text, **figures),
            "Use the calculated travel speed",
            travel_mm_s=None,
        )
    ]
