"""The pulse in figures: peak, background and mean, from the steady current and the pattern."""

import math
from typing import Annotated, ClassVar

from msgspec.structs import replace

from ...catalogue.rows import PulsePattern
from ...joint.joint import Joint
from ...physics.pulse_train import average_a, peak_for_average_a
from ...quantities import amps_without_unit, format_amps
from ...reasons import Care, Caution, Choice, Note, Practice, Reason, Stop, WithFix, WithFormula
from ...schema.figures import Band, Figure, Override
from ...shop.bench import Bench
from .current import Current
from .need import REAL_POOL, SLOW_POOL_EXPONENT, CurrentModel
from .pulse_rhythm import MIN_BACKGROUND_A, Pattern, calculate_mean_share
from .travel import MAX_DEVIATION, TOLERANCE

# Below the first frequency the peak melts the metal, above the second the mean.
BY_PEAK_PPS, BY_MEAN_PPS = 3.0, 10.0
_KEYS = ("peak_a", "on_pct", "background_pct", "rate_pps")


class Pulse(Choice, frozen=True, kw_only=True):
    """The pattern: name, frequency 1/s, peak time and background %, peak, background and mean A.

    Without a pulse, the peak is the steady current. The key `school` is the pattern in the file
    format.
    """

    part: ClassVar[str] = "pulse"
    answer: ClassVar[str] = "pulse"
    label: ClassVar[str] = "Pulse"
    school: Annotated[str, Figure("Pulse pattern")]
    pattern_name: Annotated[str, Figure("Pulse")]
    rate_pps: Annotated[
        float | None,
        Figure(
            "Pulse frequency",
            "rate",
            positive=True,
            pin=Override("rate_pps", 0.3, 500),
            band=Band("rate_pps", "Pulse frequency", 0.8, 1.25, later=True),
        ),
    ]
    on_pct: Annotated[
        float | None,
        Figure(
            "Peak time",
            "percent",
            positive=True,
            pin=Override("on_pct", 5, 95),
            band=Band("on_pct", "Peak time", 0.9, 1.1, later=True),
        ),
    ]
    background_pct: Annotated[
        float | None,
        Figure(
            "Background",
            "percent",
            1,
            pin=Override("background_pct", 1, 95),
            band=Band("background_pct", "Background", 0.8, 1.25, later=True),
        ),
    ]
    peak_a: Annotated[
        float, Figure("Peak", "current", 1, positive=True, pin=Override("peak_a", 5, 400))
    ]
    background_a: Annotated[float | None, Figure("Background current", "current", 1)]
    average_a: Annotated[
        float, Figure("Mean current", "current", 1, positive=True, compared="Mean current")
    ]

    @property
    def pulsed(self) -> bool:
        """Return whether the current is pulsed."""
        return self.on_pct is not None

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        if not self.pulsed:
            return "{pattern_name}", "about one dab a second" if self.rate_pps else "no pulse"
        over = (
            f"{format_amps(self.peak_a)} over {format_amps(self.background_a or 0.0)} A, mean"
            f" {format_amps(self.average_a)}"
        )
        return "{rate_pps} · {on_pct} · {background_pct}", "{pattern_name}; " + over


def choose_pulse(
    joint: Joint, bench: Bench, need: CurrentModel, pattern: Pattern, current: Current
) -> Pulse:
    """Calculate the pulse.

    Patterns: common practice. Mean: definition.

    Args:
        joint: The joint.
        bench: The bench.
        need: The current model.
        pattern: The pattern.
        current: The steady current.
    """
    row, steady = pattern.row, current.steady_a
    on_pct = joint.pins.get("on_pct", row.on_pct)
    background_pct = joint.pins.get("background_pct", row.background_pct)
    if row.has("steady") or on_pct is None or background_pct is None:
        foot = "With the pedal, about one dab per second at {a} A."
        reason = Practice(
            foot if row.has("by_foot") else "Without a pulse the arc stays at {a} A.",
            a=amps_without_unit(steady),
        )
        return Pulse(
            school=row.key,
            pattern_name=row.name,
            rate_pps=pattern.rate_pps,
            on_pct=None,
            background_pct=None,
            peak_a=steady,
            background_a=None,
            average_a=steady,
            why=(*pattern.why, reason),
            others=pattern.others,
            cautions=pattern.cautions,
            swaps=pattern.swaps,
        )
    on, share = on_pct / 100, background_pct / 100
    by_mean = steady / (on + share * (1 - on))
    peak = joint.pins.get(
        "peak_a", by_mean if row.peak_rule == "mean" else steady * (row.peak_factor or 1.0)
    )
    background_a, cautions = peak * share, list(pattern.cautions)
    minimum = max(MIN_BACKGROUND_A, bench.machine.least_a)
    if background_a < minimum:
        text = (
            "A background of {b} A is below the machine minimum of {l} A, where the arc "
            "goes out. The background is raised to the minimum, and the peak is lowered "
            "to keep the mean."
        )
        cautions.append(
            Note("background-too-low", "pulse", text, b=f"{background_a:.1f}", l=f"{minimum:g}")
        )
        mean = average_a(peak, background_a, on)
        background_a, peak = minimum, max(minimum, peak_for_average_a(mean, minimum, on))
        background_pct = 100 * background_a / peak
    mean = average_a(peak, background_a, on)
    choice = Pulse(
        school=row.key,
        pattern_name=row.name,
        rate_pps=pattern.rate_pps,
        on_pct=on_pct,
        background_pct=background_pct,
        peak_a=peak,
        background_a=background_a,
        average_a=mean,
        why=(*pattern.why, _explain_mean(peak, background_a, on, mean, steady)),
        others=pattern.others,
        swaps=pattern.swaps,
    )
    steady_a = need.steady_a(pattern.speed_mm_s)
    return replace(
        choice,
        cautions=(
            *cautions,
            *_check_peak_limit(joint, peak, bench),
            *_check_pulse(joint, pattern, choice, steady_a),
        ),
    )


def needed_mean_a(row: PulsePattern, background: float, rate_pps: float, steady_a: float) -> float:
    """Return the pulsed mean that melts as much as a steady current, A.

    Below 3 pulses a second it follows the peak phase of the pattern, from 10 the plain mean,
    between them linearly in the logarithm.

    Args:
        row: The pattern.
        background: Background as a fraction of the peak.
        rate_pps: Frequency, 1/s.
        steady_a: Steady current, A.

    References:
        Estimate.
    """
    share = calculate_mean_share(row, background)
    to_mean = math.log(max(1.0, rate_pps / BY_PEAK_PPS)) / math.log(BY_MEAN_PPS / BY_PEAK_PPS)
    return steady_a * (share + (1 - share) * min(1.0, to_mean))


def _check_pulse(
    joint: Joint, pattern: Pattern, pulse: Pulse, steady: float
) -> tuple[Caution, ...]:
    """Return the cautions for a manual pulse, by the current of the seam at its travel speed."""
    keys = [key for key in _KEYS if key in joint.pins]
    if not keys or pulse.background_pct is None:
        return ()
    needed = needed_mean_a(
        pattern.row, pulse.background_pct / 100, pulse.rate_pps or BY_MEAN_PPS, steady
    )
    off = _calculate_deviation(pulse, needed)
    if abs(off) <= TOLERANCE:
        return ()
    fits = pulse.peak_a * needed / pulse.average_a
    problem = (
        (
            "The pool runs away and burns through"
            if abs(off) > MAX_DEVIATION
            else "The pool widens and sags"
        )
        if off > 0
        else ("The edges do not fuse" if abs(off) > MAX_DEVIATION else "The edges may not join")
    )
    text = (
        "Peaks of {p} A give a mean of {m} A, but this seam needs about {n} A with "
        "this pulse. {what}. Use a peak of {fits} A."
    )
    figures = {
        "m": amps_without_unit(pulse.average_a),
        "p": amps_without_unit(pulse.peak_a),
        "n": amps_without_unit(needed),
        "fits": amps_without_unit(fits),
    }
    item = Care("pulse-off", "pulse", text, what=problem, **figures)
    return (WithFix(item, "Use the calculated pulse", **{f"pins.{key}": None for key in keys}),)


def _calculate_deviation(pulse: Pulse, needed: float) -> float:
    """Return how far a manual pulse is off, as a fraction.

    Too little is judged by the mean in A. Too much is judged, below 3 pulses a second, by the pool
    at the end of the peak relative to the target pool: it freezes in between, so more current
    widens it less.
    """
    ratio = pulse.average_a / needed
    if ratio <= 1 or (pulse.rate_pps or BY_MEAN_PPS) >= BY_PEAK_PPS:
        return ratio - 1
    return max(0.0, REAL_POOL * math.pow(ratio, SLOW_POOL_EXPONENT) - 1)


def _check_peak_limit(joint: Joint, peak: float, bench: Bench) -> tuple[Caution, ...]:
    if peak <= bench.machine.most_a:
        return ()
    text = (
        "Do not weld: the peak is {p} A, but the machine maximum is {m} A. The edges "
        "will not fuse. Use another pattern or a longer peak time."
    )
    item = Stop(
        "peak-too-high",
        "pulse",
        text,
        p=amps_without_unit(peak),
        m=amps_without_unit(bench.machine.most_a),
    )
    if "peak_a" in joint.pins:
        return (WithFix(item, "Reset the peak", **{"pins.peak_a": None}),)
    return (WithFix(item, "Use no pulse", pulse="none"),)


def _explain_mean(peak: float, background: float, on: float, mean: float, steady: float) -> Reason:
    return WithFormula(
        Practice(
            "The mean is {m} A, against {s} A without pulse.",
            m=amps_without_unit(mean),
            s=amps_without_unit(steady),
        ),
        "mean = peak · on + background · (1 − on)",
        "{p} × {on} + {b} × {off} = {m} A",
        p=amps_without_unit(peak),
        on=f"{on:.2f}",
        b=f"{background:.1f}",
        off=f"{1 - on:.2f}",
        m=f"{mean:.1f}",
    )
