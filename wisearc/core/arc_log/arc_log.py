"""Analyse an arc log: intervals, pulses, slopes, gas, energy and excursions."""

from collections.abc import Callable, Mapping
from typing import Annotated

from msgspec import Struct

from ..physics.heat import ARC_EFFICIENCY, ARC_VOLTAGE_V
from ..run.run import Excursion
from ..schema.figures import Figure, round_figures
from .limits import Ends, find_pulse_excursions, find_steady_excursions, is_out
from .pulses import find_pulses
from .readings import CHUNK, Readings, Rows, integrate_rows
from .stretches import find_gas_times, find_intervals, measure_slopes

# A shorter arc is a tack. Tacks take 0.3 to 1 s: common practice.
MAX_TACK_S = 1.5
# The current has reached its level when it stays within this fraction of it.
FULL_SHARE = 0.1
MAX_STRETCHES = 5000
# Delay between the gas valve and the logger, s.
GAS_SLACK_S = 0.1
# A steady current is smoothed three times over this time to find its slopes, s.
STEADY_S = 0.06
Watch = Callable[[float], None]


class Stretch(Struct, frozen=True):
    """One arc interval between strike and break."""

    start_s: Annotated[float, Figure("Start", "seconds", 3)]
    end_s: Annotated[float, Figure("End", "seconds", 3)]
    tack: Annotated[bool, Figure("Tack", "flag")]
    mean_a: Annotated[float, Figure("Mean current", "current", 2)]
    peak_a: Annotated[float, Figure("Peak", "current", 2)]
    background_a: Annotated[float | None, Figure("Background", "current", 2)]
    rate_pps: Annotated[float | None, Figure("Pulse frequency", "rate", 4)]
    on_pct: Annotated[float | None, Figure("Peak time", "percent", 2)]
    beats: Annotated[int, Figure("Pulses", "count")]
    up_s: Annotated[float, Figure("Up-slope", "seconds", 3)]
    taper_s: Annotated[float, Figure("Taper", "seconds", 3)]
    full_s: Annotated[float, Figure("Time to full current", "seconds", 3)]
    mean_v: Annotated[float | None, Figure("Mean voltage", "voltage", 2)]
    energy_kj: Annotated[float, Figure("Energy", "energy", 4)]
    gas_before_s: Annotated[float | None, Figure("Pre-flow", "seconds", 3)]
    gas_after_s: Annotated[float | None, Figure("Post-flow", "seconds", 3)]

    @property
    def lasted_s(self) -> float:
        """Return the length of the interval, s."""
        return self.end_s - self.start_s


class Gap(Struct, frozen=True):
    """An interval without readings, s."""

    start_s: Annotated[float, Figure("From", "seconds", 3)]
    end_s: Annotated[float, Figure("To", "seconds", 3)]


class ArcLog(Struct, frozen=True):
    """The analysis of a log: rows, length, arc intervals and totals."""

    rows: Annotated[int, Figure("Rows", "count")]
    bad_rows: Annotated[int, Figure("Skipped rows", "count")]
    duration_s: Annotated[float, Figure("Length", "seconds", 3)]
    arc_s: Annotated[float, Figure("Arc time", "seconds", 3)]
    seam_arc_s: Annotated[float, Figure("Arc time without tacks", "seconds", 3)]
    restarts: Annotated[int, Figure("Restarts", "count")]
    tacks: Annotated[int, Figure("Tacks", "count")]
    gaps_s: Annotated[float, Figure("Not read", "seconds", 3)]
    mean_a: Annotated[float | None, Figure("Mean current", "current", 2)]
    peak_a: Annotated[float | None, Figure("Peak", "current", 2)]
    background_a: Annotated[float | None, Figure("Background", "current", 2)]
    rate_pps: Annotated[float | None, Figure("Pulse frequency", "rate", 4)]
    on_pct: Annotated[float | None, Figure("Peak time", "percent", 2)]
    energy_kj: Annotated[float, Figure("Energy", "energy", 4)]
    heat_input_kj_mm: Annotated[float | None, Figure("Heat input", "heat", 5)]
    heat_input_en_kj_mm: Annotated[float | None, Figure("Heat input, EN", "heat", 5)]
    preflow_s: Annotated[float | None, Figure("Pre-flow", "seconds", 3)]
    postflow_s: Annotated[float | None, Figure("Post-flow", "seconds", 3)]
    taper_s: Annotated[float | None, Figure("Taper", "seconds", 3)]
    voltage: Annotated[str, Figure("Voltage")]
    first_bad: Annotated[str, Figure("First skipped row", "text")]
    stretches: Annotated[tuple[Stretch, ...], Figure("Intervals", "list", holds=Stretch)]
    gaps: Annotated[tuple[Gap, ...], Figure("Gaps", "list", holds=Gap)]
    left_band: Annotated[tuple[Excursion, ...], Figure("Out of range", "list", holds=Excursion)]

    @property
    def seams(self) -> tuple[Stretch, ...]:
        """Return the intervals that are not tacks, or all intervals if each is short."""
        return tuple(s for s in self.stretches if not s.tack) or self.stretches


def analyse(
    of: Readings,
    length_mm: float | None = None,
    held: Mapping[str, Ends] | None = None,
    watch: Watch | None = None,
    usual_v: float = ARC_VOLTAGE_V,
) -> ArcLog:
    """Analyse a log: its intervals, energy, gas times and excursions.

    The thresholds that decide what counts as an interval are estimates. The sums follow by
    definition.

    Args:
        of: The readings of the log.
        length_mm: The welded length for the heat input, mm, or None.
        held: The limits of each setting, from `get_limits`.
        watch: Receives the progress, from 0 to 1.
        usual_v: The arc voltage for a log without voltage, V.

    Returns:
        The analysis, with the heat input in the forms of ASME IX QW-409.1 and EN 1011-1.
    """
    spans = find_intervals(of)[:MAX_STRETCHES]
    gas = find_gas_times(of, spans)
    summaries, left = [], []
    for i, (first, last) in enumerate(spans):
        summary, off = _analyse_interval(of, first, last, gas[i], held or {}, usual_v)
        summaries.append(summary)
        left += off
        if watch:
            watch((i + 1) / len(spans))
    seams = [s for s in summaries if not s.tack] or summaries
    energy = sum(s.energy_kj for s in seams)
    arc = sum(s.lasted_s for s in summaries)
    main = max(seams, key=lambda s: s.lasted_s, default=None)
    gaps = tuple(Gap(float(of.time_s[i]), float(of.time_s[i + 1])) for i in of.gaps)
    after = [s.gas_after_s for s in seams if s.gas_after_s is not None]
    seam_s = sum(s.lasted_s for s in seams)
    asme = calculate_heat_input(energy, length_mm)
    found_log = ArcLog(
        rows=of.rows,
        bad_rows=of.bad_rows,
        duration_s=float(of.time_s[-1] - of.time_s[0]),
        arc_s=arc,
        seam_arc_s=seam_s,
        restarts=max(0, len(seams) - 1),
        tacks=sum(s.tack for s in summaries) if len(seams) < len(summaries) else 0,
        gaps_s=sum(gap.end_s - gap.start_s for gap in gaps),
        mean_a=sum(s.mean_a * s.lasted_s for s in seams) / seam_s if seams else None,
        peak_a=main.peak_a if main else None,
        background_a=main.background_a if main else None,
        rate_pps=main.rate_pps if main else None,
        on_pct=main.on_pct if main else None,
        energy_kj=energy,
        heat_input_kj_mm=asme,
        heat_input_en_kj_mm=None if asme is None else ARC_EFFICIENCY * asme,
        preflow_s=seams[0].gas_before_s if seams else None,
        postflow_s=min(after, default=None),
        taper_s=seams[-1].taper_s if seams else None,
        voltage="assumed" if of.voltage_v is None else "logged",
        first_bad=of.first_bad,
        stretches=tuple(summaries),
        gaps=gaps,
        left_band=tuple(left),
    )
    return round_figures(found_log)


def calculate_heat_input(energy_kj: float, length_mm: float | None) -> float | None:
    """Return the heat input, kJ/mm, or None without a length.

    Args:
        energy_kj: Arc energy, kJ.
        length_mm: Welded length, mm.

    References:
        ASME IX QW-409.1(c), published form.

    >>> calculate_heat_input(30.0, 300.0)
    0.1
    """
    return None if not length_mm else energy_kj / length_mm


def _analyse_interval(
    of: Readings,
    first: int,
    last: int,
    gas: tuple[float | None, float | None],
    held: Mapping[str, Ends],
    usual_v: float,
) -> tuple[Stretch, list[Excursion]]:
    # The interval ends at the first row outside the level, if the current changes immediately.
    import numpy as np

    after = (
        min(last + 1, of.rows)
        if last < of.rows and of.time_s[last] - of.time_s[last - 1] <= of.gap_s
        else last
    )
    part = of.part(first, last)
    # A log that is cut off during the arc does not show the slope.
    begun, ended = first > 0, last < of.rows
    start, end = float(of.time_s[first]), float(of.time_s[after - 1])
    time, current = part.time_s, part.current_a
    read_s = _read_s(time, of.gap_s)
    mean = integrate_rows(time, current, of.gap_s) / read_s
    level = _find_peak_level(part)
    up, taper = measure_slopes(part, level, 0.0, STEADY_S)
    body = _cut_slopes(part, up * begun, taper * ended)
    pulses = find_pulses(body, of.scatter_a)
    if not pulses:
        level = _find_steady_level(part)
        up, taper = measure_slopes(part, level, 0.0, STEADY_S)
        up, taper = up * begun, taper * ended
        body = _cut_slopes(part, up, taper)
    if pulses:
        beat_s = 1 / pulses.rate_pps
        phase_s = beat_s * min(pulses.on, 1 - pulses.on)
        up, taper = measure_slopes(part, pulses.peak_a, beat_s, phase_s, pulses.background_a)
        up, taper = up * begun, taper * ended
        if up or taper:
            body = _cut_slopes(part, up, taper)
            pulses = find_pulses(body, of.scatter_a) or pulses
    tack = end - start < MAX_TACK_S
    left = (
        []
        if tack
        else (
            find_pulse_excursions(body, pulses, held)
            if pulses and "peak_a" in held
            else find_steady_excursions(body, held)
        )
    )
    if "peak_a" in held and not pulses and not tack:
        left.append(
            Excursion(
                "rate_pps", float(body.time_s[0]), float(body.time_s[-1]), 0.0, *held["rate_pps"]
            )
        )
    if (
        not tack
        and gas[1] is not None
        and is_out(gas[1], held.get("postflow_s", (None, None)), GAS_SLACK_S)
    ):
        left.append(Excursion("postflow_s", end, end + gas[1], gas[1], *held["postflow_s"]))
    volts = (
        None
        if part.voltage_v is None
        else np.where(np.isfinite(part.voltage_v), part.voltage_v, usual_v)
    )
    power = integrate_rows(time, current, of.gap_s, usual_v if volts is None else volts)
    return (
        Stretch(
            start_s=start,
            end_s=end,
            tack=tack,
            mean_a=mean,
            peak_a=pulses.peak_a if pulses else level,
            background_a=pulses.background_a if pulses else None,
            rate_pps=pulses.rate_pps if pulses else None,
            on_pct=100 * pulses.on if pulses else None,
            beats=len(pulses.rises) if pulses else 0,
            up_s=up,
            taper_s=taper,
            full_s=_full_s(part, pulses.peak_a if pulses else level),
            mean_v=None if volts is None else integrate_rows(time, volts, of.gap_s) / read_s,
            energy_kj=power / 1000,
            gas_before_s=gas[0],
            gas_after_s=gas[1],
        ),
        left,
    )


def _read_s(time_s: Rows, gap_s: float) -> float:
    """Return the time that the log covers, without gaps, s."""
    import numpy as np

    lost = 0.0
    for at in range(0, len(time_s) - 1, CHUNK):
        steps = np.diff(time_s[at : at + CHUNK + 1])
        lost += float(steps[steps > gap_s].sum())
    return max(1e-9, float(time_s[-1] - time_s[0]) - lost)


def _find_middle(part: Readings) -> Rows:
    """Return evenly spaced rows of the middle half of an interval."""
    quarter = part.rows // 4
    middle = part.current_a[quarter : part.rows - quarter]
    return middle[:: max(1, len(middle) // 200_000)]


def _find_steady_level(part: Readings) -> float:
    """Return the current level of an interval without pulses, A."""
    import numpy as np

    return float(np.median(_find_middle(part)))


def _find_peak_level(part: Readings) -> float:
    """Return the approximate level of the peaks, A."""
    import numpy as np

    middle = _find_middle(part)
    high = float(np.quantile(middle, 0.95))
    return float(np.median(middle[middle >= 0.75 * high])) if high > 0 else high


def _cut_slopes(part: Readings, up_s: float, taper_s: float) -> Readings:
    """Return an interval without its slopes."""
    import numpy as np

    time = part.time_s
    first = int(np.searchsorted(time, time[0] + up_s)) if up_s else 0
    last = int(np.searchsorted(time, time[-1] - taper_s, "right")) if taper_s else part.rows
    return part.part(first, last) if last - first > 2 else part


def _full_s(part: Readings, level_a: float) -> float:
    """Return the time until the current first reaches its level, s."""
    import numpy as np

    reached = part.current_a[: min(part.rows, 200_000)] >= (1 - FULL_SHARE) * level_a
    return float(part.time_s[int(np.argmax(reached))] - part.time_s[0]) if reached.any() else 0.0
