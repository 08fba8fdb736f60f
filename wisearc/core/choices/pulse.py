"""The pulse in figures: peak, background and mean, from the steady current and the pattern."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from ..figures import ByHand, SetOn, figure
from ..joint import Joint
from ..pulse_train import average_a, peak_for_average_a
from ..reasons import Caution, Choice, Reason, note, practice, ruled, stop
from ..shop import Shop
from .current import Current
from .pulse_pattern import Pattern

LEAST_BACKGROUND_A = 5.0


@dataclass(frozen=True, kw_only=True)
class Pulse(Choice):
    """The pattern and its name, rate 1/s, on time and background %, peak, background and mean A; unpulsed, the peak is
    the steady current. The key `school` is the format's name for the pattern."""

    part: ClassVar[str] = "pulse"
    answer: ClassVar[str] = "pulse"
    label: ClassVar[str] = "Pulse"
    school: str = figure("Pattern of the pulse")
    pattern_name: str = figure("Pulse")
    rate_pps: float | None = figure("Pulses a second", "rate", positive=True, pin=ByHand("rate_pps", 0.3, 500), run=SetOn("rate_pps", "Pulses a second", 0.1, 500))  # fmt: skip
    on_pct: float | None = figure("On time", "percent", positive=True, pin=ByHand("on_pct", 5, 95), run=SetOn("on_pct", "On time", 1, 99))  # fmt: skip
    background_pct: float | None = figure("Background", "percent", 1, pin=ByHand("background_pct", 1, 95), run=SetOn("background_pct", "Background", 1, 99))  # fmt: skip
    peak_a: float = figure("Peak", "current", 1, positive=True, pin=ByHand("peak_a", 5, 400))
    background_a: float | None = figure("Background current", "current", 1)
    average_a: float = figure("Mean current", "current", 1, positive=True, compared="Mean current")

    @property
    def pulsed(self) -> bool:
        """Whether the machine pulses."""
        return self.on_pct is not None

    def words(self) -> tuple[str, str]:
        if not self.pulsed:
            return "{pattern_name}", "about one dab a second" if self.rate_pps else "steady arc"
        over = f"{self.peak_a:.0f} over {self.background_a:.0f} A, mean {self.average_a:.0f}"
        return "{rate_pps} · {on_pct} · {background_pct}", "{pattern_name}; " + over


def choose_pulse(joint: Joint, shop: Shop, pattern: Pattern, current: Current) -> Pulse:
    """Work out the pulse. Patterns: common practice; mean of the train: definition."""
    row, steady = pattern.row, current.steady_a
    on_pct = joint.pinned("on_pct", row.on_pct)
    background_pct = joint.pinned("background_pct", row.background_pct)
    if row.has("steady") or on_pct is None or background_pct is None:
        foot = "By foot, about one dab a second at {a} A."
        said = practice(foot if row.has("by_foot") else "Unpulsed: the arc stays at {a} A.", a=f"{steady:.0f}")
        return Pulse(
            school=row.key, pattern_name=row.name, rate_pps=pattern.rate_pps, on_pct=None, background_pct=None, peak_a=steady, background_a=None,
            average_a=steady, why=(*pattern.why, said), others=pattern.others, cautions=pattern.cautions,
        )  # fmt: skip
    on, share = on_pct / 100, background_pct / 100
    by_mean = steady / (on + share * (1 - on))
    peak = joint.pinned("peak_a", by_mean if row.peak_rule == "mean" else steady * (row.peak_factor or 1.0))
    background_a, cautions = peak * share, list(pattern.cautions)
    least = max(LEAST_BACKGROUND_A, shop.machine_least_a)
    if background_a < least:
        words = "{b} A of background is under the least {l} A, where the arc goes out: raised to it, the peak brought down to keep the mean."
        cautions.append(note("background-too-low", "pulse", words, b=f"{background_a:.1f}", l=f"{least:g}"))
        mean = average_a(peak, background_a, on)
        background_a, peak = least, max(least, peak_for_average_a(mean, least, on))
        background_pct = 100 * background_a / peak
    mean = average_a(peak, background_a, on)
    return Pulse(
        school=row.key, pattern_name=row.name, rate_pps=pattern.rate_pps, on_pct=on_pct, background_pct=background_pct, peak_a=peak,
        background_a=background_a, average_a=mean, why=(*pattern.why, _mean_reason(peak, background_a, on, mean, steady)),
        others=pattern.others, cautions=(*cautions, *_too_high(peak, shop)),
    )  # fmt: skip


def _too_high(peak: float, shop: Shop) -> tuple[Caution, ...]:
    if peak <= shop.machine_most_a:
        return ()
    words = "The peak of {p} A is above the machine's {m} A. Another pattern, or a longer on time."
    return (stop("peak-too-high", "pulse", words, p=f"{peak:.0f}", m=f"{shop.machine_most_a:.0f}"),)


def _mean_reason(peak: float, background: float, on: float, mean: float, steady: float) -> Reason:
    return ruled(
        practice("Mean {m} A where steady is {s} A.", m=f"{mean:.0f}", s=f"{steady:.0f}"), "mean = peak · on + background · (1 − on)",
        "{p} × {on} + {b} × {off} = {m} A", p=f"{peak:.0f}", on=f"{on:.2f}", b=f"{background:.1f}", off=f"{1 - on:.2f}", m=f"{mean:.1f}",
    )  # fmt: skip
