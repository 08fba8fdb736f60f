"""The pulse pattern, its frequency, and the travel speed for its ripples."""

from __future__ import annotations

from msgspec.structs import replace

from ... import catalogue
from ...catalogue.rows import PulsePattern
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.heat import ARC_VOLTAGE_V, heat_input_kj_mm
from ...physics.pulse_train import (
    is_flickering,
    overlap_pct,
    pitch_mm,
)
from ...quantities import amps_without_unit, heat, length, speed
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Estimate,
    Note,
    Practice,
    Reason,
    Sentence,
    Substitution,
    WithFix,
    WithFormula,
)
from ...shop.bench import Bench
from ...shop.shop import Machine
from ..shielding.back import Back
from .need import ARC_LENGTH_MM, CurrentModel
from .pulse_rhythm import (
    MAX_RATE_PPS,
    MIN_OVERLAP_PCT,
    MIN_RATE_PPS,
    Pattern,
    calculate_heat_share,
    find_max_pps,
    find_min_pps,
    find_pattern_peak_a,
    match_travel_speed,
)

LONG_SEAM_MM, BOTH_SHOWN_MM = 150.0, (100.0, 200.0)
THIN_WALL_MM = 1.0
STOUT_EDGE_MM = 2.0
# Both approaches are shown this near a change: mm of sheet, and share of heat.
NEAR_FOCUS_MM, NEAR_GAIN = 0.2, 0.05
CLOSE_GAP_MM = 0.05
# A pattern above this fraction of the steady heat has no benefit.
MAX_USEFUL_HEAT_SHARE = 0.95


def choose_pattern(
    joint: Joint, section: Section, bench: Bench, back: Back, need: CurrentModel
) -> Pattern:
    """Choose the pulse pattern, its frequency and travel speed.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        back: The root cover.
        need: The current model.

    References:
        Common practice. The frequency from the travel speed is an estimate.
    """
    is_manual = joint.pulse != "auto"
    row, reason = (
        (catalogue.load_pulse_patterns()[joint.pulse], Practice("Pulse set manually."))
        if is_manual
        else _choose_own_pattern(joint, section, bench)
    )
    pattern = match_travel_speed(joint, bench, need, row)
    notes: list[Reason] = []
    if not is_manual and (peak := find_pattern_peak_a(joint, need, pattern)) > bench.machine.most_a:
        text = "{s} needs peaks of {p} A, but the machine maximum is {m} A. The plan uses no pulse."
        figures = {
            "s": row.name.capitalize(),
            "p": amps_without_unit(peak),
            "m": amps_without_unit(bench.machine.most_a),
        }
        notes, pattern = (
            [Practice(text, **figures)],
            match_travel_speed(joint, bench, need, catalogue.load_pulse_patterns()["none"]),
        )
    if pattern.rippled:
        share = calculate_heat_share(joint, need, pattern)
        if share > MAX_USEFUL_HEAT_SHARE and not is_manual:
            text = "{s} gives {p} % of the heat of an unpulsed arc here, so the plan uses no pulse."
            notes = [Estimate("pulse-gain", text, s=row.name.capitalize(), p=f"{100 * share:.0f}")]
            pattern = match_travel_speed(
                joint, bench, need, catalogue.load_pulse_patterns()["none"]
            )
        elif share > MAX_USEFUL_HEAT_SHARE:
            pattern = replace(pattern, cautions=(_check_gain(row, share),))
        else:
            notes = [_rate_reason(pattern, need)]
    if pattern.rippled and (parted := _check_ripple_gap(joint, pattern)):
        notes, pattern = (
            [parted],
            match_travel_speed(joint, bench, need, catalogue.load_pulse_patterns()["none"]),
        )
    why = [reason, *notes, Practice("{use} {cost}", use=pattern.row.use, cost=pattern.row.cost)]
    why += _compare_patterns(joint, section, bench, need) + _explain_position(joint)
    cautions = _check_pattern(joint, bench, back, pattern)
    return replace(
        pattern,
        why=tuple(why),
        others=tuple(_list_alternatives(joint, pattern.row)),
        cautions=(*pattern.cautions, *cautions),
        swaps=() if is_manual else _find_substitution(joint, section, bench, need, pattern),
    )


def _find_substitution(
    joint: Joint, section: Section, bench: Bench, need: CurrentModel, taken: Pattern
) -> tuple[Substitution, ...]:
    """Return the pattern that the machine cannot make, if it had a benefit."""
    row = catalogue.load_pulse_patterns()[_choose_wanted_pattern(joint, section)[0]]
    if row.has("steady") or row is taken.row:
        return ()
    if can_make_pattern(bench, row):
        peak = find_pattern_peak_a(joint, need, match_travel_speed(joint, bench, need, row))
        if not bench.machine.name or peak <= bench.machine.most_a:
            return ()
        text = "{use} Its peaks of {p} A exceed the {most} A of {m}."
        why = Sentence(
            text,
            use=row.use,
            p=amps_without_unit(peak),
            m=bench.machine.name,
            most=amps_without_unit(bench.machine.most_a),
        )
        return (Substitution("pulse", Sentence(row.name), Sentence(taken.row.name), why),)
    if (
        row.has("rippled")
        and calculate_heat_share(joint, need, match_travel_speed(joint, bench, need, row))
        > MAX_USEFUL_HEAT_SHARE
    ):
        return ()
    able = next((m.name for m in bench.shop.machines or () if can_make_frequency(m, row)), "")
    text = (
        "{use} {m} can do this. Choose it in Shop."
        if able
        else "{use} No machine in the shop can do this."
    )
    why = Sentence(text, use=row.use, m=able)
    return (Substitution("pulse", Sentence(row.name), Sentence(taken.row.name), why),)


def can_make_pattern(bench: Bench, row: PulsePattern) -> bool:
    """Return whether the machine can make a pattern.

    A ripple at any frequency from 1 to 2 a second, another at its own.

    Args:
        bench: The bench.
        row: The pattern.
    """
    if row.has("steady") or row.has("by_foot") or row.rate_pps is None:
        return True
    return can_make_frequency(bench.machine, row)


def can_make_frequency(machine: Machine, row: PulsePattern) -> bool:
    """Return whether a machine pulses at a frequency of the pattern.

    Args:
        machine: The machine.
        row: The pattern.
    """
    if machine.pulse is None or row.rate_pps is None:
        return False
    low, high = (MIN_RATE_PPS, MAX_RATE_PPS) if row.has("rippled") else (row.rate_pps, row.rate_pps)
    return machine.pulse.least_pps <= high and low <= machine.pulse.most_pps


def _rate_reason(pattern: Pattern, need: CurrentModel) -> Reason:
    v, w, rate = pattern.speed_mm_s, pattern.ripple_mm or 0.0, pattern.rate_pps or 0.0
    reason = Estimate(
        "ripple-rate",
        "{r} per second suits the travel speed: a pool {w} long after each peak, {o} % overlap.",
        r=f"{rate:.2g}",
        w=length(w),
        o=f"{pattern.lap_pct:g}",
    )
    worked = "{v} / ({w} × (1 − {o})) = {r}"
    return WithFormula(
        reason,
        "frequency = v / (L (1 − overlap)), 1 to 2 per second",
        worked,
        v=speed(v),
        w=length(w),
        o=f"{pattern.lap_pct / 100:g}",
        r=f"{rate:.2f}",
    )


def _check_ripple_gap(joint: Joint, pattern: Pattern) -> Reason | None:
    """Return the reason that excludes a pattern with separated ripples.

    The ripples separate at the manual travel speed.
    """
    if joint.travel_mm_s is None or "rate_pps" in joint.pins or not pattern.rate_pps:
        return None
    lap = overlap_pct(pitch_mm(pattern.speed_mm_s, pattern.rate_pps), pattern.ripple_mm or 1e-9)
    if lap >= MIN_OVERLAP_PCT:
        return None
    text = (
        "At {v} even 2 pulses per second overlap less than a quarter. The plan uses "
        "no pulse instead of {s}."
    )
    return Practice(text, v=speed(joint.travel_mm_s), s=pattern.row.name)


def _check_gain(row: PulsePattern, share: float) -> Caution:
    text = (
        "{s} gives {p} % of the heat of an unpulsed arc on this sheet. The pulse "
        "costs time for nothing. Weld without pulse."
    )
    item = Care("pulse-no-gain", "pulse", text, s=row.name.capitalize(), p=f"{100 * share:.0f}")
    return WithFix(item, "Use no pulse", pulse="none")


_RULE = (
    "first suitable: machine without pulse but with remote → by pedal; without "
    "either → none; a metal that must not be chilled → none; gap under 2 mm of sheet, cope or "
    "tube wall under 1 mm → fast; edge or corner from 2 mm → focused; edge or corner "
    "from 150 mm long → slow and cold; else none"
)


def _choose_own_pattern(
    joint: Joint, section: Section, bench: Bench
) -> tuple[PulsePattern, Reason]:
    key, reason = _choose_first_suitable(joint, section, bench)
    row = catalogue.load_pulse_patterns()[key]
    return row, WithFormula(
        reason,
        _RULE,
        "{joint}, {t}, {long} long, gap {gap}: {name}",
        joint=joint.kind.name,
        t=length(section.thin_mm),
        long=length(section.length_mm),
        gap=length(joint.gap_mm),
        name=row.name,
    )


def _choose_first_suitable(joint: Joint, section: Section, bench: Bench) -> tuple[str, Reason]:
    if not bench.machine.pulses:
        if joint.remote:
            return "pedal", Practice("The machine cannot pulse. Dab with the pedal.")
        return "none", Practice(
            "The machine has no pulse and no remote control. Weld unpulsed with 5 % less "
            "current, and faster."
        )
    key, reason = _choose_wanted_pattern(joint, section)
    row = catalogue.load_pulse_patterns()[key]
    if can_make_pattern(bench, row):
        return key, reason
    text = (
        "The machine pulses from {a} to {b} per second, but {name} needs another "
        "frequency. The plan uses no pulse."
    )
    return "none", Practice(
        text, a=f"{find_min_pps(bench):g}", b=f"{find_max_pps(bench):g}", name=row.name
    )


def _choose_wanted_pattern(joint: Joint, section: Section) -> tuple[str, Reason]:
    """Return the preferred pattern of the joint for any machine."""
    chilled = joint.which("no_chill")
    if chilled:
        return "none", Practice(
            "{metal} cools too fast under a slow pulse. The plan uses no pulse.", metal=chilled
        )
    thin_tube = any(m.form == "tube" and m.thickness_mm < THIN_WALL_MM for m in joint.members[:2])
    # In thicker sheet the rod bridges a gap without a pulse.
    thin_gap = joint.gap_mm > CLOSE_GAP_MM and section.thin_mm < STOUT_EDGE_MM
    if thin_gap or joint.kind.has("cope") or thin_tube:
        text = "A gap in thin sheet, a cope or a thin tube: a fast pulse is cooler and bridges it."
        return "fast", Practice(text)
    along_edge = joint.kind.has("along_edge")
    if along_edge and section.thin_mm >= STOUT_EDGE_MM:
        return "focused", Practice(
            "An edge in thicker sheet: a stiff arc does not wander to the edge."
        )
    if along_edge and section.length_mm >= LONG_SEAM_MM:
        text = "Long {joint} in thin sheet: a slow, cold pulse keeps it flat and bright."
        return "slow-cold", Practice(text, joint=joint.kind.name)
    return "none", Practice("Good fit-up makes pulsing unnecessary here.")


def _compare_patterns(
    joint: Joint, section: Section, bench: Bench, need: CurrentModel
) -> list[Reason]:
    """Return the approaches side by side where a little more length or thickness changes them.

    That is from 100 to 200 mm of a thin edge, near the thickness from which a slow pulse pays, and
    near the thickness of the stiff arc.
    """
    if (
        not joint.kind.has("along_edge")
        or not bench.machine.pulses
        or joint.which("no_chill")
        or joint.gap_mm > CLOSE_GAP_MM
    ):
        return []
    rows = catalogue.load_pulse_patterns()
    cold = match_travel_speed(joint, bench, need, rows["slow-cold"])
    share = calculate_heat_share(joint, need, cold)
    low, high = BOTH_SHOWN_MM
    thin, seam = section.thin_mm, section.length_mm
    near_focus = abs(thin - STOUT_EDGE_MM) <= NEAR_FOCUS_MM + 1e-9
    near_gain = seam >= low and abs(share - MAX_USEFUL_HEAT_SHARE) <= NEAR_GAIN
    near_length = low <= seam <= high and thin < STOUT_EDGE_MM
    if not (near_focus or near_gain or near_length):
        return []
    steady = heat_input_kj_mm(ARC_VOLTAGE_V, need.base_a, need.speed_mm_s)
    peaks = [
        amps_without_unit(find_pattern_peak_a(joint, need, pattern))
        for pattern in (cold, match_travel_speed(joint, bench, need, rows["focused"]))
    ]
    text = (
        "This joint is near a change of approach. Unpulsed: {i} A at {v}, {a}. Slow and cold: "
        "peaks of {p} A at {w}, {b}, for flat and bright seams. "
    )
    text += (
        "Focused, from {t}: peaks of {q} A."
        if near_focus
        else "From {l} of seam up flatness decides, below it simplicity."
    )
    figures = {
        "i": amps_without_unit(need.base_a),
        "a": heat(steady),
        "b": heat(steady * share),
        "p": peaks[0],
        "q": peaks[1],
        "v": speed(need.speed_mm_s),
        "w": speed(cold.speed_mm_s),
        "l": length(LONG_SEAM_MM),
        "t": length(STOUT_EDGE_MM),
    }
    return [Practice(text, **figures)]


def _explain_position(joint: Joint) -> list[Reason]:
    if not joint.position.small_pool:
        return []
    text = (
        "{position}: the choice of pulse is the same. If the pool sags, a slow pulse "
        "lets it freeze in between. Keep the arc length at most {arc}."
    )
    return [Practice(text, position=joint.position.name.capitalize(), arc=length(ARC_LENGTH_MM))]


def _check_pattern(joint: Joint, bench: Bench, back: Back, pattern: Pattern) -> list[Caution]:
    cautions: list[Caution] = []
    row, chilled = pattern.row, joint.which("no_chill")
    steady = {"pulse": "none"}
    if row.has("chills") and chilled:
        text = (
            "A slow, cold pulse cools {metal} too fast. The weld keeps too much ferrite. "
            "Weld without pulse."
        )
        cautions.append(
            WithFix(
                Care("chill-on-duplex", "pulse", text, metal=chilled),
                "Use no pulse",
                **steady,
            )
        )
    if row.has("chills") and not back.barred:
        text = (
            "A slow, cold pulse needs chill bars. Without them it removes less heat. "
            "Clamp bars, or use no pulse."
        )
        cautions.append(Note("pulse-without-bars", "pulse", text))
    if not row.has("steady") and not bench.machine.pulses:
        other = "pedal" if joint.remote else "none"
        text = "The machine cannot pulse. " + (
            "The pedal gives the same look." if joint.remote else "Weld unpulsed and faster."
        )
        cautions.append(
            WithFix(Care("machine-no-pulse", "pulse", text), f"Use {other}", pulse=other)
        )
    elif not can_make_pattern(bench, row) or not _can_make_rate(bench, pattern):
        text = (
            "The machine pulses from {a} to {b} per second. It cannot make {r}. Choose a "
            "frequency in that range."
        )
        figures = {
            "a": f"{find_min_pps(bench):g}",
            "b": f"{find_max_pps(bench):g}",
            "r": f"{pattern.rate_pps:g}",
        }
        keys = {"pins.rate_pps": None} if "rate_pps" in joint.pins else steady
        how = "Use the calculated frequency" if "rate_pps" in joint.pins else "Use no pulse"
        cautions.append(
            WithFix(Care("pulse-outside-machine", "pulse", text, **figures), how, **keys)
        )
    if pattern.rate_pps and is_flickering(pattern.rate_pps):
        text = (
            "Flicker between 2 and 30 pulses per second tires the eye, and no welder "
            "keeps time with it. From 3 to 30 it can trigger photosensitive epilepsy. "
            "Stay at 2 or below, or at 30 or above."
        )
        cautions.append(
            WithFix(
                Care("pulse-flicker", "pulse", text),
                "Use the calculated frequency",
                **{"pins.rate_pps": None},
            )
        )
    return cautions


def _can_make_rate(bench: Bench, pattern: Pattern) -> bool:
    """Return whether the machine can make the exact frequency of a pattern."""
    if pattern.rate_pps is None or pattern.row.has("by_foot") or pattern.row.has("steady"):
        return True
    return find_min_pps(bench) <= pattern.rate_pps <= find_max_pps(bench)


def _list_alternatives(joint: Joint, taken: PulsePattern) -> list[Alternative]:
    return [
        Alternative(
            Sentence("{name}", name=row.name),
            Sentence("{use} {cost}", use=row.use, cost=row.cost),
            {"pulse": row.key},
            "pulse",
        )
        for row in catalogue.load_pulse_patterns().values()
        if row is not taken and (joint.remote or not row.has("by_foot"))
    ]
