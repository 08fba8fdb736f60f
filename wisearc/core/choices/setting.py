"""What to set on the machine, and its slopes where no foot holds the arc."""

from __future__ import annotations

from dataclasses import dataclass

from ..reasons import Caution, Choice, Other, Reason, caution, practice, say, stop
from .current import Current
from .pulse import Pulse
from .so_far import SoFar

_CRACK_PRONE = ("310S", "904L", "4130")


@dataclass(frozen=True, kw_only=True)
class Setting(Choice):
    """Machine setting A; start and finish A (None with a remote); slopes s."""

    machine_a: float
    start_a: float | None
    up_s: float
    down_s: float
    finish_a: float | None


def choose(so_far: SoFar) -> Setting:
    """Choose the machine setting and slopes. Common practice."""
    joint, pulse, steady = so_far.joint, so_far.get(Pulse), so_far.get(Current).steady_a
    others: tuple[Other, ...] = ()
    if pulse.pulsed:
        machine, why = pulse.peak_a, practice("Under pulse the machine is set to the peak, no headroom.")
    elif not joint.remote:
        machine, why = steady, practice("No remote: set what is needed; the slopes start and end it.")
    elif joint.setting_school == "ride":
        machine, why = (
            2 * steady,
            practice("Set twice what is needed and ride the {c}: a slip blows through.", c=joint.control),
        )
        others = (_other(joint.setting_school, steady),)
    else:
        machine = steady + headroom_a(steady)
        why = practice(
            "{h} A over what is needed; the {c} holds it back.",
            h=f"{headroom_a(steady):.0f}",
            c=joint.control,
        )
        others = (_other(joint.setting_school, steady),)
    slopes = _slopes(so_far, machine) if not joint.remote else (None, 0.0, 0.0, None)
    reasons = [why] if joint.remote else [why, _slope_reason(slopes)]
    return Setting(
        machine_a=machine, start_a=slopes[0], up_s=slopes[1], down_s=slopes[2], finish_a=slopes[3],
        why=tuple(reasons), others=others, cautions=tuple(_cautions(so_far, machine)),
    )  # fmt: skip


def headroom_a(steady: float) -> float:
    """Headroom over the needed current, A: the smaller of 15 A and 30 %, 3 A at least. Common practice.

    >>> headroom_a(40), headroom_a(100), headroom_a(6)
    (12.0, 15.0, 3.0)
    """
    return float(max(3.0, min(15.0, 0.3 * steady)))


def _other(school: str, steady: float) -> Other:
    if school == "ride":
        return Other(
            say("{a} A", a=f"{steady + headroom_a(steady):.0f}"),
            say("Small headroom: a slip of the foot does little."),
            "common-practice",
            "common-practice",
            {"setting_school": "headroom"},
            school="setting",
        )
    return Other(
        say("{a} A", a=f"{2 * steady:.0f}"),
        say("Set double and ride it: quick to heat a cold start, and a slip blows through."),
        "common-practice",
        "common-practice",
        {"setting_school": "ride"},
        school="setting",
    )


def _slopes(so_far: SoFar, machine: float) -> tuple[float, float, float, float]:
    """Start, up, down, finish: 27 % of set (5 A least, 10 from 1.6 mm tungsten), by thickness. Common practice."""
    t = so_far.section.reckoned_mm
    least = 10.0 if machine > 15 else 5.0
    start = max(least, 0.275 * machine)
    up = 0.3 if t <= 1 else 0.5 if t <= 2 else 1.0
    crack_prone = any(m.key in _CRACK_PRONE for m in so_far.joint.metals)
    unlike = so_far.section.stainless_sides == 1
    down = (1 + t) * (2 if crack_prone or unlike else 1)
    return start, up, down, max(5.0, 0.2 * machine)


def _slope_reason(slopes: tuple[float | None, float, float, float | None]) -> Reason:
    start, up, down, finish = slopes
    return practice(
        "Start {a} A, up in {u} s; down in {d} s to {f} A, running back 5 mm onto the bead.",
        a=f"{start:.0f}",
        u=f"{up:g}",
        d=f"{down:.1f}",
        f=f"{finish:.0f}",
    )


def _cautions(so_far: SoFar, machine: float) -> list[Caution]:
    found: list[Caution] = []
    shop, mean = so_far.shop, so_far.get(Pulse).average_a
    if machine > shop.machine_most_a and not so_far.get(Pulse).pulsed:
        found.append(
            stop(
                "machine-too-small",
                "current",
                "{a} A is above the machine's {m} A.",
                a=f"{machine:.0f}",
                m=f"{shop.machine_most_a:.0f}",
            )
        )
    rating = shop.torch_row.rating_a
    if mean > rating:
        found.append(
            stop(
                "torch-overrun",
                "torch",
                "{a} A mean is above the {r} A of a no. {n} torch: it burns. Take a bigger or water-cooled torch.",
                a=f"{mean:.0f}",
                r=f"{rating:.0f}",
                n=shop.torch,
            )
        )
    elif mean > 0.8 * rating:
        found.append(
            caution(
                "torch-overrun",
                "torch",
                "{a} A mean is over 80 % of a no. {n} torch's {r} A: rest it between runs.",
                a=f"{mean:.0f}",
                r=f"{rating:.0f}",
                n=shop.torch,
            )
        )
    if so_far.joint.setting_school == "ride" and so_far.joint.remote and not so_far.get(Pulse).pulsed:
        found.append(
            caution("ride-slip", "current", "Set at twice the need, a slip of the foot blows through thin sheet.")
        )
    return found
