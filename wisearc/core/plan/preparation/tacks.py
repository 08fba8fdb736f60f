"""Tacks: number, positions, order and current."""

import heapq
import math
from functools import lru_cache
from typing import Annotated, ClassVar

from msgspec import Struct

from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.heat_in_time import find_spot_pool_mm
from ...quantities import amps_without_unit, length, size
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Choice,
    Estimate,
    Practice,
    Reason,
    Sentence,
    Stop,
    WithFix,
    WithFormula,
)
from ...schema.figures import Figure, Override
from ...shop.bench import Bench
from ..arc.current import Current
from ..arc.setting import Setting
from ..arc.slow_pulse import build_sheet
from ..shielding.back import Back

PITCH_IN_T = 20.0
MIN_PITCH_MM = 12.0
MAX_PITCH_MM = 50.0
PITCH_BARS_IN_T = 40.0
LENGTH_IN_T, MIN_LENGTH_MM, MAX_LENGTH_MM = 2.5, 2.0, 6.0
WIDE_BY = 1.3
# A tack at more than this share of the current of the seam burns through: a little above a burst.
MAX_TACK_FACTOR = 2.5
ROUND_IN_T, MAX_ROUND_MM = 40.0, 60.0
# A shorter seam round a stud holds with one tack.
MIN_ROUND_SEAM_MM = 15.0
HELD, BURST = "held", "burst"


class TackApproach(Struct, frozen=True):
    """An approach to tacks.

    Current relative to the seam, time s, spacing relative to that of held tacks, its text, and
    whether the rod is fed.
    """

    current_factor: float
    time_s: float
    pitch_factor: float
    how: str
    has_rod: bool


APPROACHES = {
    HELD: TackApproach(
        1.3, 0.5, 1.0, "1.3 times the current of the seam, held until the pool joins", True
    ),
    BURST: TackApproach(2.0, 0.2, 0.5, "a burst of twice the current of the seam", False),
}


class Tacks(Choice, frozen=True, kw_only=True):
    """The tacks.

    Count, spacing mm, positions mm from the start, order (indices into positions), length mm,
    current A, setting A, time s.
    """

    part: ClassVar[str] = "tacks"
    answer: ClassVar[str] = "tacks"
    label: ClassVar[str] = "Tacks"
    count: Annotated[int, Figure("Tacks", "count")]
    pitch_mm: Annotated[
        float, Figure("Tack spacing", "size", 2, pin=Override("tack_pitch_mm", 3, 500))
    ]
    positions_mm: Annotated[tuple[float, ...], Figure("Positions", "length", 2)]
    order: Annotated[tuple[int, ...], Figure("Sequence", "count")]
    length_mm: Annotated[float, Figure("Tack length", "size", 2)]
    current_a: Annotated[
        float, Figure("Tack current", "current", 1, pin=Override("tack_current_a", 3, 400))
    ]
    dial_a: Annotated[float, Figure("Setting for tacks", "current", 1)]
    time_s: Annotated[float, Figure("Tack time", "seconds")]
    school: Annotated[str, Figure("Tack approach")] = HELD

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        head = "1" if self.count == 1 else "{count}, every {pitch_mm}"
        return head, "{length_mm} long, {current_a} for {time_s}"


def choose_tacks(
    joint: Joint, section: Section, bench: Bench, back: Back, current: Current, setting: Setting
) -> Tacks:
    """Choose the tacks.

    Common practice. Their current, within the range of the trade, is an estimate.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        back: The root cover.
        current: The current.
        setting: The machine setting.
    """
    seam, approach = section.length_mm, APPROACHES[joint.tack_school]
    if joint.all_round:
        diameter = joint.round_mm
        count = round_count(diameter, section.thin_mm, seam, approach.pitch_factor)
        pitch, order = seam / count, order_in_pairs(count)
        positions = tuple(i * pitch for i in range(count))
        part = "stud" if joint.kind.has("stud") else "tube"
        text = "Round a {part} of {d}: {n}, in opposite pairs."
        if count == 1:
            text = "One tack holds a {part} of {d}."
        elif count % 2:
            text = "Round a {part} of {d}: {n}, evenly spaced."
        reason = Practice(text, part=part, d=length(diameter), n=count)
        rule = (
            "3 below 20 mm, 4 at quarter turns, 6 from 50 mm, 8 from 100 mm; at most 40 "
            "t or 60 mm apart"
        )
        why: Reason = WithFormula(
            reason,
            rule,
            "{d}, wall {t}: {n}",
            d=length(diameter),
            t=length(section.thin_mm),
            n=count,
        )
    else:
        wanted = joint.pins.get("tack_pitch_mm", usual_pitch_mm(section.thin_mm, approach))
        count = max(2, math.ceil(seam / wanted - 1e-9) + 1)
        pitch, order = seam / (count - 1), order_by_halving(count)
        positions = tuple(i * pitch for i in range(count))
        why = _explain_spacing(joint, section, wanted, pitch)
    long = min(max(MIN_LENGTH_MM, LENGTH_IN_T * section.thin_mm), MAX_LENGTH_MM)
    if joint.all_round:
        # On a small tube the tacks take half of the seam at most.
        long = max(MIN_LENGTH_MM, min(long, seam / (2 * count)))
    seam_a = _find_seam_current_a(joint, current)
    planned = max(seam_a, min(approach.current_factor * seam_a, bench.machine.most_a))
    amps = joint.pins.get("tack_current_a", planned)
    has_own_setting = setting.at_peak or amps > setting.machine_a + 0.5 or not joint.remote
    dial = amps if has_own_setting else setting.machine_a
    return Tacks(
        count=count,
        pitch_mm=pitch,
        positions_mm=positions,
        order=order,
        length_mm=long,
        current_a=amps,
        dial_a=dial,
        time_s=approach.time_s,
        school=joint.tack_school,
        why=(
            why,
            _explain_current(joint, approach, amps, has_own_setting),
            *_explain_tacking(section, back, long),
            *_explain_pool(section, amps, approach.time_s),
        ),
        others=(
            *_list_alternatives(joint, section, back, pitch),
            _build_other_approach(joint, current),
        ),
        cautions=(
            *_check_spacing(joint, section, back, approach, pitch),
            *_check_current(joint, bench, current, amps),
        ),
    )


def usual_pitch_mm(thin: float, approach: TackApproach) -> float:
    """Return the usual spacing of tacks on sheet, mm: 20 t from 12 to 50 mm.

    Burst tacks are half as far apart, but not below 12 mm.

    Args:
        thin: Thickness of the thinner member, mm.
        approach: The approach.

    References:
        Common practice; the spacing of burst tacks is an estimate.
    """
    usual = min(MAX_PITCH_MM, max(MIN_PITCH_MM, PITCH_IN_T * thin))
    return max(MIN_PITCH_MM, approach.pitch_factor * usual)


def round_count(diameter: float, wall: float, seam: float, pitch_factor: float = 1.0) -> int:
    """Return the number of tacks round a tube.

    3 below 20 mm, 4 at quarter turns, 6 from 50, 8 from 100. The spacing is at most the smaller of
    40 t and 60 mm along the seam, and the number is even from 4.

    Args:
        diameter: Diameter, mm.
        wall: Wall, mm.
        seam: Length of the seam, mm.
        pitch_factor: Spacing relative to that of held tacks.

    References:
        Common practice.

    >>> (
    ...     round_count(25, 1.2, 78.5),
    ...     round_count(60, 1.5, 188.5),
    ...     round_count(150, 2, 471.2),
    ...     round_count(25, 0.4, 78.5),
    ... )
    (4, 6, 8, 6)
    """
    if seam < MIN_ROUND_SEAM_MM:
        return 1
    usual = 3 if diameter < 20 else 4 if diameter < 50 else 6 if diameter < 100 else 8
    minimum = math.ceil(seam / (pitch_factor * min(ROUND_IN_T * wall, MAX_ROUND_MM)) - 1e-9)
    count = max(math.ceil(usual / pitch_factor), minimum)
    return count + count % 2 if count >= 4 else count


@lru_cache(maxsize=64)
def order_by_halving(count: int) -> tuple[int, ...]:
    """Return the order of tacks: ends first, then the middle of the widest space each time.

    >>> order_by_halving(5)
    (0, 4, 2, 1, 3)
    """
    order, spaces = [0, count - 1], [(1 - count, 0, count - 1)]
    while -spaces[0][0] > 1:
        _, left, right = heapq.heappop(spaces)
        middle = (left + right) // 2
        order.append(middle)
        for a, b in ((left, middle), (middle, right)):
            heapq.heappush(spaces, (a - b, a, b))
    return tuple(order)


@lru_cache(maxsize=64)
def order_in_pairs(count: int) -> tuple[int, ...]:
    """Return the order of tacks in opposite pairs round a tube.

    Each pair is as far from the last as possible.

    >>> order_in_pairs(4), order_in_pairs(3)
    ((0, 2, 1, 3), (0, 1, 2))
    """
    if count % 2:
        return tuple(range(count))
    half = count // 2
    starts = order_by_halving(half) if half > 2 else tuple(range(half))
    return tuple(i for s in starts for i in (s, s + half))


def _explain_spacing(joint: Joint, section: Section, wanted: float, pitch: float) -> Reason:
    if "tack_pitch_mm" in joint.pins:
        return Practice("Spacing set manually: every {p}.", p=size(pitch))
    text = (
        "Equal spaces along the seam, at most {w} apart. Ends first, then halve the widest space."
    )
    reason = Practice(text, w=length(wanted))
    figures = {
        "t": length(section.thin_mm),
        "w": length(wanted),
        "a": length(MIN_PITCH_MM),
        "b": length(MAX_PITCH_MM),
    }
    return WithFormula(
        reason, "20 thicknesses, within 12 to 50 mm", "20 × {t}, within {a} to {b}: {w}", **figures
    )


def _explain_current(
    joint: Joint, approach: TackApproach, amps: float, has_own_setting: bool
) -> Reason:
    if "tack_current_a" in joint.pins:
        text = "Tack current of {a} A set manually. "
    else:
        text = "{a} A for a tack: {how}. "
    text += (
        "Set it separately with the pulse off, then return to the setting of the seam."
        if has_own_setting
        else "The fully pressed {c} gives it."
    )
    figures = {"a": amps_without_unit(amps), "how": approach.how, "c": joint.control}
    return Estimate("tack-current", text, **figures)


def _find_seam_current_a(joint: Joint, current: Current) -> float:
    """Return the unpulsed current of the seam at its own travel speed, A.

    A tack has no travel, so the travel speed of a slow pulse or of the welder does not change it.
    """
    if "current_a" in joint.pins:
        return current.steady_a
    if current.by_record and current.own_record_a is not None:
        return current.own_record_a
    return current.bench_rule_a


def _build_other_approach(joint: Joint, current: Current) -> Alternative:
    """Return the other approach to tacks, with its current."""
    other = BURST if joint.tack_school == HELD else HELD
    approach = APPROACHES[other]
    text = (
        "{a} A for {t} s. A thin edge fuses before the heat spreads, but the tacks are small and "
        "twice as many."
        if other == BURST
        else "{a} A for {t} s. Strong tacks, and more spread of heat."
    )
    return Alternative(
        Sentence("{n} tacks", n=other),
        Sentence(
            text,
            a=amps_without_unit(approach.current_factor * _find_seam_current_a(joint, current)),
            t=f"{approach.time_s:g}",
        ),
        {"tack_school": other, "pins.tack_current_a": None},
        "tack_school",
    )


def _check_current(joint: Joint, bench: Bench, current: Current, amps: float) -> list[Caution]:
    """Return the caution for a manual tack current in A."""
    if "tack_current_a" not in joint.pins:
        return []
    reset, seam_a = {"pins.tack_current_a": None}, _find_seam_current_a(joint, current)
    figures = {
        "a": amps_without_unit(amps),
        "s": amps_without_unit(seam_a),
        "m": amps_without_unit(bench.machine.most_a),
    }
    if amps > bench.machine.most_a + 0.5:
        text = (
            "Do not weld: tacks of {a} A are set, but the machine maximum is {m} A. The tacks "
            "will not fuse. Use less current."
        )
        item: Caution = Stop("tack-current-off", "tacks", text, **figures)
    elif amps < seam_a - 0.5:
        text = (
            "Tacks of {a} A are below the {s} A of the seam. They do not fuse in a moment, and "
            "the sheet heats up. Use the calculated current."
        )
        item = Care("tack-current-off", "tacks", text, **figures)
    elif amps > MAX_TACK_FACTOR * seam_a:
        text = (
            "Tacks of {a} A are more than {n} times the {s} A of the seam. They burn through. Use "
            "the calculated current."
        )
        item = Care("tack-current-off", "tacks", text, n=f"{MAX_TACK_FACTOR:g}", **figures)
    else:
        return []
    return [WithFix(item, "Use the calculated tack current", **reset)]


def _explain_pool(section: Section, amps: float, seconds: float) -> list[Reason]:
    """Return the spot that a tack melts, by heat conduction in time."""
    width = find_spot_pool_mm(build_sheet(section), amps, seconds)
    text = (
        "Held still, {a} A melts a spot about {w} wide in {t} s."
        if width > 0
        else "By heat conduction {t} s at {a} A is short. Hold it until both edges join."
    )
    figures = {"a": amps_without_unit(amps), "w": size(width), "t": f"{seconds:g}"}
    return [Estimate("heat-in-time", text, **figures)]


def _explain_tacking(section: Section, back: Back, long: float) -> list[Reason]:
    first = ", purge running" if back.purged else ", bars clamped" if back.barred else ""
    text = (
        "{s} long, pulse off{first}, full post-flow. Feather or melt in each tack. "
        "Grind out a cracked one."
    )
    reasons: list[Reason] = [Practice(text, s=size(long), first=first)]
    if section.unlike:
        reasons.append(
            Practice("Strike on the thicker piece and carry over. The thin edge melts first.")
        )
    return reasons


def _list_alternatives(
    joint: Joint, section: Section, back: Back, pitch: float
) -> list[Alternative]:
    between_bars = round(PITCH_BARS_IN_T * section.thin_mm, 1)
    closer = pitch < between_bars - 1 and section.length_mm > between_bars
    if not back.barred or joint.all_round or not closer:
        return []
    text = "Between close bars the sheet cannot part. 40 thicknesses apart is enough."
    return [
        Alternative(
            Sentence("every {p}", p=length(between_bars)),
            Sentence(text),
            {"pins.tack_pitch_mm": between_bars},
        )
    ]


def _check_spacing(
    joint: Joint, section: Section, back: Back, approach: TackApproach, pitch: float
) -> list[Caution]:
    maximum = (
        approach.pitch_factor * section.thin_mm * (PITCH_BARS_IN_T if back.barred else PITCH_IN_T)
    )
    if "tack_pitch_mm" in joint.pins and pitch > WIDE_BY * maximum:
        text = (
            "Tacks every {p} are far apart for {t}. The first pass breaks them and a gap "
            "opens. Use {m}."
        )
        figures = {"p": size(pitch), "t": length(section.thin_mm), "m": length(maximum)}
        item = Care("tacks-too-few", "tacks", text, **figures)
        return [WithFix(item, "Use the calculated spacing", **{"pins.tack_pitch_mm": None})]
    return []
