"""Travel speed, pool width and ripples."""

from typing import Annotated, ClassVar

from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.fillet import (
    deposit_section_mm2,
    feed_mm_min,
    melted_section_mm2,
    melting_efficiency,
)
from ...physics.pulse_train import overlap_pct, pitch_for_overlap_mm, pitch_mm
from ...quantities import amps_without_unit, length, size, speed
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Choice,
    Estimate,
    Practice,
    Reason,
    Sentence,
    WithFix,
    WithFormula,
)
from ...schema.figures import Band, Figure
from ..filler_metal.filler import Filler
from ..filler_metal.rod_size import check_feed_rate
from .need import (
    ARC_LENGTH_MM,
    MAX_FED_FILLET_MM_S,
    MIN_FED_POOL_MM,
    CurrentModel,
    experienced_travel_mm_s,
)
from .pulse_rhythm import CLOSE_OVERLAP_PCT, OVERLAP_PCT, Pattern

MAX_VERTICAL_DOWN_MM = 1.5
TOLERANCE, MAX_DEVIATION = 0.15, 0.35
# Two travel speeds agree within this share.
AGREES_BY = 0.1
# The leg of one pass, in thicknesses: estimate.
MAX_LEG_SHEETS = 4.0


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
    feed_mm_min: Annotated[
        float | None, Figure("Feed of the rod in a minute", "size", 0, part="filler")
    ] = None
    dab_pitch_mm: Annotated[float | None, Figure("Spacing of the dabs", "size", 2)] = None

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        ripple = "; ripples {pitch_mm} apart, {overlap_pct} overlap" if self.pitch_mm else ""
        return "{speed_mm_s}", "pool {pool_width_mm}, arc length {arc_length_mm}" + ripple


def choose_travel(
    joint: Joint, section: Section, filler: Filler, need: CurrentModel, pattern: Pattern
) -> Travel:
    """Choose the travel speed.

    Autogenous: estimate. With filler: common practice. Slower for a ripple: common practice.

    Args:
        joint: The joint.
        section: Its section.
        filler: The filler.
        need: The current model.
        pattern: The pulse pattern.
    """
    bare = filler.rod is None
    travel, width, rate = pattern.speed_mm_s, need.pool_mm, pattern.rate_pps
    feed = (
        None
        if filler.diameter_mm is None
        else feed_mm_min(filler.deposit_mm2, travel, filler.diameter_mm)
    )
    pool = pattern.ripple_mm or width
    pitch = (
        pitch_mm(travel, rate) if rate and (pattern.rippled or pattern.row.has("by_foot")) else None
    )
    dabs = filler.rod is not None and not pattern.rippled
    dab_pitch = pitch_for_overlap_mm(need.pool_after_peak_mm(), pattern.lap_pct) if dabs else None
    return Travel(
        speed_mm_s=travel,
        pool_width_mm=width,
        pitch_mm=pitch,
        overlap_pct=overlap_pct(pitch, pool) if pitch else None,
        arc_time_s=section.length_mm / travel,
        arc_length_mm=ARC_LENGTH_MM,
        length_mm=section.length_mm,
        feed_mm_min=feed,
        dab_pitch_mm=dab_pitch,
        why=(
            *_explain_travel_speed(joint, section, filler, need, pattern),
            _explain_pool(joint, section, filler, width),
            *_explain_dabs(need, pattern, dab_pitch),
        ),
        others=_list_overlaps(joint, need, pattern) if pitch or dab_pitch else (),
        cautions=(
            *_check_direction(joint, section, bare),
            *_check_travel_speed(joint, need),
            *_check_leg(section, filler.leg_mm),
            *check_feed_rate(feed or 0.0, filler.diameter_mm or 0.0, _list_feed_keys(joint)),
        ),
    )


def _explain_dabs(
    need: CurrentModel, pattern: Pattern, dab_pitch: float | None
) -> tuple[Reason, ...]:
    """Return the spacing of the dabs of the rod, mm, with its rhythm."""
    if dab_pitch is None:
        return ()
    text = (
        "Dab the rod every {p}, about {n} times a second: the pools overlap {o} %. After about "
        "four dabs shift your hand."
    )
    reason = Practice(
        text,
        p=length(dab_pitch),
        n=f"{pattern.speed_mm_s / dab_pitch:.1f}",
        o=f"{pattern.lap_pct:g}",
    )
    return (
        WithFormula(
            reason,
            "spacing = pool length · (1 − overlap)",
            "{l} × (1 − {o}) = {p}",
            l=length(need.pool_after_peak_mm()),
            o=f"{pattern.lap_pct / 100:g}",
            p=length(dab_pitch),
        ),
    )


def _list_overlaps(joint: Joint, need: CurrentModel, pattern: Pattern) -> tuple[Alternative, ...]:
    """Return the other common overlap, with its spacing."""
    texts = {
        OVERLAP_PCT: "The same look. Hides starts better, but leaves less margin for the hand.",
        CLOSE_OVERLAP_PCT: "The figure that most people quote. More ripples for the same length.",
    }
    pool = pattern.ripple_mm or need.pool_after_peak_mm()
    return tuple(
        Alternative(
            Sentence("overlap {o} %", o=f"{overlap:g}"),
            Sentence(
                text + " Ripples about {p} apart.", p=length(pitch_for_overlap_mm(pool, overlap))
            ),
            {"overlap_pct": overlap},
            "overlap_pct",
        )
        for overlap, text in texts.items()
        if abs(overlap - pattern.lap_pct) > 0.5
    )


def _list_feed_keys(joint: Joint) -> tuple[str, ...]:
    """Return the manual answers that change the feed."""
    keys = [key for key in ("leg", "travel_mm_s") if getattr(joint, key) is not None]
    return (*keys, *(f"pins.{k}" for k in ("rod_diameter_mm",) if k in joint.pins))


def _explain_travel_speed(
    joint: Joint, section: Section, filler: Filler, need: CurrentModel, pattern: Pattern
) -> list[Reason]:
    """Return the reasons for the travel speed, with changes by a ripple or a manual value."""
    v = need.speed_mm_s
    reasons = (
        _explain_fillet_speed(section, filler.leg_mm, need)
        if filler.leg_mm is not None
        else [_explain_default_speed(section, filler.rod is None, v)]
    )
    if joint.travel_mm_s is not None:
        return [
            Practice("Travel speed set manually. The calculated speed is {v}.", v=speed(v)),
            *reasons,
        ]
    if pattern.slowed:
        text = "Slowed so that {r:g} per second still overlap {o:g} %."
        return [Practice(text.format(r=pattern.rate_pps, o=pattern.lap_pct)), *reasons]
    if pattern.slow is not None:
        text = "At {v} each peak melts as wide as the unpulsed arc at its own speed."
        pulsed = Estimate("ripple-rate", text, v=speed(pattern.speed_mm_s))
        return [pulsed, *reasons]
    return reasons


def _explain_default_speed(section: Section, bare: bool, v: float) -> Reason:
    """Return the reason for a speed by thickness. Speed mm/s."""
    t = section.reckoned_mm
    text = "A steady {v} on {t}, " + ("without filler." if bare else "with manual rod feed.")
    rule = "v = min(4.2, 5.4 / t), × 0.7 in a corner" if bare else "v = min(3.0, 4.0 / t) in line"
    reason = Estimate("travel-default", text, v=speed(v), t=length(t))
    return WithFormula(reason, f"{rule}; × position", "t {t}: {v}", t=length(t), v=speed(v))


def _explain_fillet_speed(section: Section, leg: float, need: CurrentModel) -> list[Reason]:
    """Return the energy balance of a fillet, and the experience of welders. Leg mm."""
    v, t = need.speed_mm_s, section.thin_mm
    deposit, melted = deposit_section_mm2(leg), melted_section_mm2(leg, t)
    text = "The arc fills a leg of {leg} at {v}. A larger leg at the same current is slower."
    rule = (
        "v = η_m η V I / (9.2 (A_d + A_b)), at most {m} by hand; η_m = 0.27, less below 1.5 mm; "
        "× position"
    )
    balance = WithFormula(
        Estimate("fillet-balance", text, leg=length(leg), v=speed(v)),
        rule.replace("{m}", f"{MAX_FED_FILLET_MM_S:g}"),
        "A_d {d} mm², A_b {b} mm², η_m {e}, {i} A: {v}",
        d=f"{deposit:.2f}",
        b=f"{melted:.2f}",
        e=f"{melting_efficiency(t):.2f}",
        i=amps_without_unit(need.bench_a),
        v=speed(v),
    )
    usual = experienced_travel_mm_s(section.reckoned_mm)
    if abs(v / usual - 1) <= AGREES_BY:
        text = "Welders report about the same speed: {u}."
    else:
        text = "Welders report {u} for fillets of this thickness. Trust the leg that you see."
    return [balance, Practice(text, u=speed(usual))]


def _explain_pool(joint: Joint, section: Section, filler: Filler, width: float) -> Reason:
    text = "Target pool width: {w}."
    if filler.leg_mm is None and filler.rod is not None and width <= MIN_FED_POOL_MM + 1e-9:
        text += " A narrower pool does not melt the rod, however thin the sheet is."
    reason = Estimate("pool-width", text, w=size(width))
    if filler.leg_mm is not None:
        rule, worked = "w = 1.41 · leg + 0.8 mm", "1.41 × {t} + 0.8 mm: {w}"
        return WithFormula(reason, rule, worked, t=length(filler.leg_mm), w=size(width))
    rule = (
        "w = 2.2 t, 2.2 to 6.5 mm" if filler.rod is None else "w = 2.8 t, 3.0 to 7.5 mm, in line"
    ) + ("; against gravity at most 2 t or 5 mm" if joint.position.small_pool else "")
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


def _check_leg(section: Section, leg: float | None) -> list[Caution]:
    """Return the caution for a leg, mm, that is too large for one pass on this sheet."""
    if leg is None or leg <= MAX_LEG_SHEETS * section.thin_mm + 1e-9:
        return []
    text = (
        "A leg of {leg} is more than {n} times the {t} sheet. The heat of one pass burns it "
        "through. Use a smaller leg, or several passes."
    )
    figures = {"leg": length(leg), "t": length(section.thin_mm), "n": f"{MAX_LEG_SHEETS:g}"}
    item = Care("leg-too-large", "filler", text, **figures)
    return [WithFix(item, "Use the leg of the plan", leg=None)]


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
