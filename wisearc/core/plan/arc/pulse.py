"""The pulse in figures: peak, background and mean, from the steady current and the pattern."""

import math
from typing import Annotated, ClassVar

from msgspec.structs import replace

from ...joint.joint import Joint
from ...physics.heat_in_time import (
    STEADY_ARC,
    STEADY_FROM_PPS,
    PulseTrain,
    find_peak_a,
    find_pool,
)
from ...physics.pulse_train import average_a, peak_for_average_a
from ...quantities import amps_without_unit, format_amps
from ...reasons import Care, Caution, Choice, Note, Practice, Reason, Stop, WithFix, WithFormula
from ...schema.figures import Band, Figure, Override
from ...shop.bench import Bench
from .current import Current
from .need import CurrentModel
from .pulse_rhythm import MIN_BACKGROUND_A, Pattern
from .slow_pulse import build_sheet, find_fused_width_mm, find_melt_size_mm
from .travel import MAX_DEVIATION, TOLERANCE

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
    minimum = max(MIN_BACKGROUND_A, bench.machine.least_a)
    cautions = list(pattern.cautions)
    if pattern.slow is not None:
        peak, background_a = pattern.slow.peak_a, pattern.slow.background_a
        unraised = share * peak
        background_pct = 100 * background_a / peak
    else:
        peak = joint.pins.get("peak_a", steady / (on + share * (1 - on)))
        background_a = unraised = peak * share
        if background_a < minimum:
            mean = average_a(peak, background_a, on)
            background_a, peak = minimum, max(minimum, peak_for_average_a(mean, minimum, on))
            background_pct = 100 * background_a / peak
    if unraised < minimum - 1e-9:
        text = (
            "A background of {b} A is below the machine minimum of {l} A, where the arc "
            "goes out. The background is raised to the minimum, and the peak is lowered with it."
        )
        cautions.append(
            Note("background-too-low", "pulse", text, b=f"{unraised:.1f}", l=f"{minimum:g}")
        )
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
    return replace(
        choice,
        cautions=(
            *cautions,
            *_check_peak_limit(joint, peak, bench),
            *_check_pulse(joint, need, pattern, choice),
        ),
    )


def _check_pulse(
    joint: Joint, need: CurrentModel, pattern: Pattern, pulse: Pulse
) -> tuple[Caution, ...]:
    """Return the cautions for a manual pulse, by its pool or, if it is fast, by its mean."""
    keys = [key for key in _KEYS if key in joint.pins]
    if not keys or pulse.background_pct is None:
        return ()
    rate = pulse.rate_pps or STEADY_FROM_PPS
    off, fits = (
        _judge_by_mean(need, pattern, pulse)
        if rate >= STEADY_FROM_PPS
        else _judge_by_pool(need, pattern, pulse)
    )
    if abs(off) <= TOLERANCE:
        return ()
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
        "n": amps_without_unit(pulse.average_a * fits / pulse.peak_a),
        "fits": amps_without_unit(fits),
    }
    item = Care("pulse-off", "pulse", text, what=problem, **figures)
    return (WithFix(item, "Use the calculated pulse", **{f"pins.{key}": None for key in keys}),)


def _judge_by_mean(need: CurrentModel, pattern: Pattern, pulse: Pulse) -> tuple[float, float]:
    """Return how far the mean is off, as a fraction, and the peak that fits, A."""
    ratio = pulse.average_a / need.steady_a(pattern.speed_mm_s)
    return ratio - 1, pulse.peak_a / ratio


def _judge_by_pool(need: CurrentModel, pattern: Pattern, pulse: Pulse) -> tuple[float, float]:
    """Return how far the pool at the end of the peak is off, and the peak that fits, A.

    Too little is judged by its width, against the pool that fuses the seam. Too much is judged by
    its melt, the root of width × length, against an unpulsed pool of the target width: it freezes
    in between, is shorter, and sags later.
    """
    sheet, v = build_sheet(need.section, need.melt), pattern.speed_mm_s
    train = build_pulse_train(pulse)
    pool, fused = find_pool(sheet, train, pulse.peak_a, v), find_fused_width_mm(need)
    narrow = pool.width_mm / fused - 1
    melt = math.sqrt(pool.width_mm * pool.length_mm)
    wide = melt / find_melt_size_mm(sheet, need.pool_mm, need.speed_mm_s) - 1
    return narrow if narrow < -TOLERANCE else max(0.0, wide), find_peak_a(sheet, train, fused, v)


def build_pulse_train(pulse: Pulse) -> PulseTrain:
    """Return the pulse train of a pulse, with its background in amperes.

    Args:
        pulse: The pulse. One without a pulse is a steady arc.
    """
    if pulse.on_pct is None or not pulse.rate_pps:
        return STEADY_ARC
    return PulseTrain(pulse.rate_pps, pulse.on_pct / 100, (pulse.background_a or 0) / pulse.peak_a)


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
