"""One check of every current.

Arc, peak and tacks against setting, tip, tungsten, torch and machine.
"""

from __future__ import annotations

from ... import catalogue
from ...joint.joint import Joint
from ...quantities import amps_without_unit, length
from ...reasons import Care, Caution, Note, Stop, WithFix
from ...shop.bench import Bench
from ..preparation.tacks import Tacks
from ..torch.fit import Fit
from ..torch.tips import carried_a
from ..torch.tungsten import Tungsten
from .current import Current
from .pulse import Pulse
from .setting import Setting

WARM_SHARE = 0.8
_MANUAL_KEYS = ("current_a", "peak_a", "on_pct", "background_pct")


def check_currents(
    joint: Joint,
    bench: Bench,
    fit: Fit,
    current: Current,
    pulse: Pulse,
    setting: Setting,
    tacks: Tacks,
    tungsten: Tungsten,
) -> tuple[Caution, ...]:
    """Check every limit of the current.

    Ratings: common practice. Tips: AWS C5.5, from memory.

    Args:
        joint: The joint.
        bench: The bench.
        fit: The torch parts.
        current: The current.
        pulse: The pulse.
        setting: The machine setting.
        tacks: The tacks.
        tungsten: The tungsten.
    """
    return (
        *_check_machine(joint, bench, current, pulse),
        *_check_torch(joint, fit, pulse),
        *_check_tungsten(joint, pulse, setting, tacks, tungsten),
    )


def _add_reset(joint: Joint, item: Caution) -> Caution:
    """Add the reset of manual currents to a caution, if there are any."""
    keys: dict[str, None] = {f"pins.{key}": None for key in _MANUAL_KEYS if key in joint.pins}
    if joint.travel_mm_s is not None:
        keys["travel_mm_s"] = None
    return WithFix(item, "Use the calculated current", **keys) if keys else item


def _check_machine(joint: Joint, bench: Bench, current: Current, pulse: Pulse) -> list[Caution]:
    minimum = bench.machine.least_a
    if current.steady_a < minimum - 0.05:
        text = (
            "Do not weld: this joint needs {a} A, but the machine minimum is {l} A. The "
            "arc will burn through. Use a machine with a lower minimum."
        )
        return [
            _add_reset(
                joint,
                Stop(
                    "machine-too-big",
                    "current",
                    text,
                    a=amps_without_unit(current.steady_a),
                    l=amps_without_unit(minimum),
                ),
            )
        ]
    if current.steady_a <= bench.machine.most_a or pulse.pulsed:
        return []
    text = (
        "Do not weld: this joint needs {a} A, but the machine maximum is {m} A. The "
        "pool will not form. Use a larger machine."
    )
    item = Stop(
        "machine-too-small",
        "current",
        text,
        a=amps_without_unit(current.steady_a),
        m=amps_without_unit(bench.machine.most_a),
    )
    return [_add_reset(joint, item)]


def _check_torch(joint: Joint, fit: Fit, pulse: Pulse) -> list[Caution]:
    mean, rating = pulse.average_a, fit.torch.row.rating_a
    figures = {"a": amps_without_unit(mean), "r": amps_without_unit(rating), "n": fit.torch.size}
    if mean > rating:
        text = (
            "Do not weld: the mean current is {a} A, but a no. {n} torch is rated at {r} "
            "A. The torch will overheat. Use a larger or water-cooled torch."
        )
        return [_add_reset(joint, Stop("torch-overrun", "torch", text, **figures))]
    if pulse.peak_a > rating:
        text = (
            "Peaks of {p} A exceed the {r} A rating of a no. {n} torch, but the mean of "
            "{a} A does not. The handle may get hot. Keep the runs short and check the "
            "handle."
        )
        return [Note("torch-peak", "torch", text, p=amps_without_unit(pulse.peak_a), **figures)]
    if mean > WARM_SHARE * rating:
        text = (
            "A mean of {a} A is more than 80 % of the {r} A rating of a no. {n} torch. "
            "The handle gets hot. Rest the torch between runs."
        )
        return [Note("torch-overrun", "torch", text, **figures)]
    return []


def _check_tungsten(
    joint: Joint, pulse: Pulse, setting: Setting, tacks: Tacks, tungsten: Tungsten
) -> list[Caution]:
    """Check the tungsten as a rod and its tip separately."""
    steady, peak, d = pulse.average_a, max(pulse.peak_a, tacks.current_a), tungsten.diameter_mm
    _, max_rod_a = catalogue.rod_capacity_a()[d]
    tip_steady, tip_pulsed = carried_a(tungsten.included_angle_deg)
    figures = {
        "s": amps_without_unit(steady),
        "p": amps_without_unit(peak),
        "d": length(d),
        "r": f"{max_rod_a:g}",
        "t": amps_without_unit(tip_steady),
        "q": amps_without_unit(tip_pulsed),
        "a": f"{tungsten.included_angle_deg:g}",
        "set": amps_without_unit(setting.machine_a),
    }
    keys = ("tungsten_mm", "included_angle_deg")
    release: dict[str, str | None] = {f"pins.{key}": None for key in keys if key in joint.pins}
    if joint.tip_school != "table":
        release["tip_school"] = "table"
    if steady > max_rod_a:
        text = (
            "Do not weld: the current is {s} A, but a tungsten of {d} carries at most "
            "{r} A. The tip will melt into the pool. Use a larger tungsten or less "
            "current."
        )
        item: Caution = Stop("peak-too-high", "tungsten", text, **figures)
        return [
            (
                WithFix(item, "Use the recommended tungsten", **release)
                if release
                else _add_reset(joint, item)
            )
        ]
    if steady > tip_steady + 0.5 or peak > tip_pulsed + 0.5:
        text = (
            "The tungsten of {d} carries {r} A, but a tip of {a}° carries {t} A without "
            "pulse and {q} A in peaks or tacks. {s} and {p} A blunt the tip. Grind it "
            "blunter or use the next size."
        )
        item = Care("tip-overrun", "tungsten", text, **figures)
        return [
            (
                WithFix(item, "Use the recommended tungsten", **release)
                if release
                else _add_reset(joint, item)
            )
        ]
    minimum = min((t.steady_a[0] for t in catalogue.load_tips() if t.diameter_mm == d), default=0.0)
    if steady < minimum:
        text = (
            "{s} A is below the {low} A that a tungsten of {d} needs for a steady arc. "
            "The arc wanders. Use a smaller tungsten."
        )
        item = Care("tungsten-too-big", "tungsten", text, low=f"{minimum:g}", **figures)
        return [
            (
                WithFix(item, "Use the recommended tungsten", **release)
                if release
                else _add_reset(joint, item)
            )
        ]
    full = round(setting.machine_a)
    if not pulse.pulsed and joint.remote and full > tip_steady:
        text = (
            "Full {c} gives {set} A, but this tip carries {t} A without pulse. The tip "
            "blunts. Use full current only for moments."
        )
        return [Note("pedal-over-tip", "tungsten", text, c=joint.control, **figures)]
    return []
