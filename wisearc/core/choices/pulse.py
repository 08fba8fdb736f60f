"""The pulse in figures: peak, background and mean, from the steady current and the school."""

from __future__ import annotations

from dataclasses import dataclass

from ..pulse_train import average_a, peak_for_average_a
from ..reasons import Caution, Choice, Reason, note, practice, say, stop
from .current import Current
from .rhythm import Rhythm
from .so_far import SoFar

LEAST_BACKGROUND_A = 5.0


@dataclass(frozen=True, kw_only=True)
class Pulse(Choice):
    """On time and background %, peak, background and mean current A; unpulsed, peak is the steady current."""

    on_pct: float | None
    background_pct: float | None
    peak_a: float
    background_a: float | None
    average_a: float

    @property
    def pulsed(self) -> bool:
        return self.on_pct is not None


def choose(so_far: SoFar) -> Pulse:
    """Work out the pulse. Schools: common practice; mean of the train: definition."""
    rhythm, steady = so_far.get(Rhythm), so_far.get(Current).steady_a
    joint, school = so_far.joint, rhythm.school
    on_pct = joint.pin("on_pct") or school.on_pct
    background_pct = joint.pin("background_pct") or school.background_pct
    if school.on_pct is None or on_pct is None or background_pct is None:
        words = (
            "By foot, about one dab a second at {a} A."
            if school.key == "pedal"
            else "Unpulsed: the arc stays at {a} A."
        )
        return Pulse(
            on_pct=None,
            background_pct=None,
            peak_a=steady,
            background_a=None,
            average_a=steady,
            why=(practice(words, a=f"{steady:.0f}"),),
        )
    on, background = on_pct / 100, background_pct / 100
    mean_share = on + background * (1 - on)
    peak = joint.pin("peak_a") or (
        steady / mean_share if school.peak_rule == "mean" else steady * (school.peak_factor or 1.0)
    )
    background_a = peak * background
    least = max(LEAST_BACKGROUND_A, so_far.shop.machine_least_a)
    cautions: list[Caution] = []
    if background_a < least:
        mean = average_a(peak, background_a, on)
        cautions.append(
            note(
                "background-too-low",
                "pulse",
                "{b} A of background is under the least {l} A, where the arc goes out: raised to it, the peak brought down to keep the mean.",
                b=f"{background_a:.1f}",
                l=f"{least:g}",
            )
        )
        background_a, peak = least, max(least, peak_for_average_a(mean, least, on))
        background_pct = 100 * background_a / peak
    mean = average_a(peak, background_a, on)
    if peak > so_far.shop.machine_most_a:
        cautions.append(
            stop(
                "peak-too-high",
                "pulse",
                "The peak of {p} A is above the machine's {m} A. Another school, or a longer on time.",
                p=f"{peak:.0f}",
                m=f"{so_far.shop.machine_most_a:.0f}",
            )
        )
    return Pulse(
        on_pct=on_pct, background_pct=background_pct, peak_a=peak, background_a=background_a, average_a=mean,
        why=(_mean_reason(peak, background_a, on, mean, steady),), cautions=tuple(cautions),
    )  # fmt: skip


def _mean_reason(peak: float, background: float, on: float, mean: float, steady: float) -> Reason:
    return Reason(
        say("Mean {m} A where steady is {s} A.", m=f"{mean:.0f}", s=f"{steady:.0f}"), "common-practice", "common-practice",
        formula="mean = peak · on + background · (1 − on)",
        worked=say("{p} × {on} + {b} × {off} = {m} A", p=f"{peak:.0f}", on=f"{on:.2f}", b=f"{background:.1f}", off=f"{1 - on:.2f}", m=f"{mean:.1f}"),
    )  # fmt: skip
