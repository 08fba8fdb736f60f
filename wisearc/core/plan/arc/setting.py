"""The machine setting, and its slopes without a remote control."""

from collections.abc import Iterable
from typing import Annotated, ClassVar

from ...catalogue.rows import Metal
from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import amps_without_unit, format_amps, length
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Choice,
    Practice,
    Reason,
    Sentence,
    WithFix,
    WithFormula,
)
from ...schema.figures import Band, Figure
from ...shop.bench import Bench
from ...shop.shop import CONTROLS
from .current import Current
from .pulse import Pulse

HEADROOM_A, HEADROOM_SHARE, MIN_HEADROOM_A = 15.0, 0.3, 3.0
RIDE = 2.0
# The factor for the down-slope on metal that cracks.
SLOWLY = 2.0
START_SHARE, MIN_START_A, LOW_START_A, MAX_LOW_A = 0.275, 10.0, 5.0, 15.0
FINISH_SHARE, MIN_FINISH_A = 0.2, 5.0


class Setting(Choice, frozen=True, kw_only=True):
    """The machine setting.

    It has the setting A, as dialled to 1 A, the mean A, whether the setting is the peak, start and
    final current A (None with a remote), and slopes s.
    """

    part: ClassVar[str] = "slopes"
    answer: ClassVar[str] = "current"
    machine_a: Annotated[
        float,
        Figure(
            "Machine setting",
            "current",
            1,
            positive=True,
            compared="Machine setting",
            part="current",
            band=Band("machine_a", "Setting", 0.9, 1.1, later=True),
        ),
    ]
    dial_a: Annotated[
        float, Figure("Set on the machine", "current", 0, positive=True, part="current")
    ]
    mean_a: Annotated[float, Figure("Mean current", "current", 1, positive=True, part="current")]
    at_peak: Annotated[bool, Figure("Peak is set")]
    start_a: Annotated[float | None, Figure("Start current", "current", 1)]
    up_s: Annotated[float, Figure("Up-slope", "seconds")]
    down_s: Annotated[float, Figure("Down-slope", "seconds", 1)]
    finish_a: Annotated[float | None, Figure("Final current", "current", 1)]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        detail = f"set {format_amps(self.machine_a)}" + (" at the peak" if self.at_peak else "")
        if self.start_a is not None:
            detail += (
                f"; start {format_amps(self.start_a)}, up-slope {{up_s}}, down-slope {{down_s}} "
                f"to {format_amps(self.finish_a or 0.0)}"
            )
        return "", detail


def choose_setting(
    joint: Joint, section: Section, bench: Bench, current: Current, pulse: Pulse
) -> Setting:
    """Choose the machine setting and slopes.

    Common practice.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        current: The current.
        pulse: The pulse.
    """
    steady = current.steady_a
    others: tuple[Alternative, ...] = ()
    why: Reason
    if pulse.pulsed:
        machine = pulse.peak_a
        why = Practice("With a pulse the machine is set to the peak, without headroom.")
    elif not joint.remote:
        machine = steady
        why = Practice(
            "Without a remote control, set the required current. The slopes start and end the weld."
        )
    else:
        machine, why, others = _choose_headroom(joint, steady)
    if machine > bench.machine.most_a >= steady and not pulse.pulsed:
        machine = bench.machine.most_a
    slopes = (
        (None, 0.0, 0.0, None)
        if joint.remote
        else _calculate_slopes(joint, section, bench, machine)
    )
    return Setting(
        machine_a=machine,
        # Rounded as in every answer, so that card and answer show one figure.
        dial_a=float(format_amps(round(machine, 1))),
        mean_a=pulse.average_a,
        at_peak=pulse.pulsed,
        start_a=slopes[0],
        up_s=slopes[1],
        down_s=slopes[2],
        finish_a=slopes[3],
        why=(why,) if joint.remote else (why, _explain_slopes(slopes)),
        others=others,
        cautions=tuple(_check_setting(joint, bench, pulse)),
    )


def headroom_a(steady: float) -> float:
    """Return the headroom over the required current, A: the smaller of 15 A and 30 %, at least 3 A.

    Common practice.

    >>> headroom_a(40), headroom_a(100), headroom_a(6)
    (12.0, 15.0, 3.0)
    """
    return float(max(MIN_HEADROOM_A, min(HEADROOM_A, HEADROOM_SHARE * steady)))


def _choose_headroom(joint: Joint, steady: float) -> tuple[float, Reason, tuple[Alternative, ...]]:
    """Return the headroom of the two approaches for a remote.

    Slightly above the current, or double.
    """
    headroom = headroom_a(steady)
    little, double = steady + headroom, RIDE * steady
    if joint.setting_school == "ride":
        why = Practice(
            ("Set twice the required current and control it with the {c}. A slip burns through."),
            c=joint.control,
        )
        text = "With a small headroom a slip of the foot does little."
        return double, why, _build_alternative(little, "headroom", text)
    why = Practice(
        "{h} A above the required current. The {c} holds it back.",
        h=amps_without_unit(headroom),
        c=joint.control,
    )
    text = "Set double. A cold start heats quickly, but a slip burns through."
    return little, why, _build_alternative(double, "ride", text)


def _build_alternative(set_a: float, approach: str, text: str) -> tuple[Alternative, ...]:
    """Return the alternative approach.

    Args:
        set_a: Set current of the alternative, A.
        approach: Key of the alternative in the joint.
        text: Disadvantages of the alternative.
    """
    value = Sentence("{a} A", a=amps_without_unit(set_a))
    return (Alternative(value, Sentence(text), {"setting_school": approach}, "setting"),)


def _calculate_slopes(
    joint: Joint, section: Section, bench: Bench, machine: float
) -> tuple[float, float, float, float]:
    """Return start, up-slope, down-slope and final current.

    Start 27 % of the setting (at least 5 A, 10 from 1.6 mm tungsten), slopes by thickness, never
    below the machine minimum. Common practice.
    """
    t, minimum = section.reckoned_mm, bench.machine.least_a
    start = max(minimum, MIN_START_A if machine > MAX_LOW_A else LOW_START_A, START_SHARE * machine)
    up = 0.3 if t <= 1 else 0.5 if t <= 2 else 1.0
    slowly = needs_slow_taper([m.metal for m in joint.members], section)
    return (
        start,
        up,
        (1 + t) * (SLOWLY if slowly else 1),
        max(minimum, MIN_FINISH_A, FINISH_SHARE * machine),
    )


def needs_slow_taper(metals: Iterable[Metal | None], section: Section) -> bool:
    """Return whether a short down-slope causes cracks, by the metals, or for stainless to steel.

    Common practice.

    Args:
        metals: The metals.
        section: The section.
    """
    mixed = section.stainless_sides == 1 and section.carbon_sides == 1
    return mixed or any(metal is not None and metal.has("crack_prone") for metal in metals)


def _explain_slopes(slopes: tuple[float | None, float, float, float | None]) -> Reason:
    start, up, down, finish = slopes
    figures = {
        "a": amps_without_unit(start or 0.0),
        "u": f"{up:g}",
        "d": f"{down:.1f}",
        "f": amps_without_unit(finish or 0.0),
    }
    text = (
        "Start at {a} A with an up-slope of {u} s. End with a down-slope of {d} s to "
        "{f} A, returning {back} onto the bead."
    )
    rule = (
        "start 27.5 % of the setting; up-slope 0.3 s to 1 mm, 0.5 s to 2 mm, 1 s "
        "above; down-slope 1 s and 1 s per mm, double where craters crack; final "
        "current a fifth"
    )
    return WithFormula(
        Practice(text, back=length(5), **figures), rule, "{a} A, {u} s, {d} s, {f} A", **figures
    )


def _check_setting(joint: Joint, bench: Bench, pulse: Pulse) -> list[Caution]:
    cautions: list[Caution] = []
    machine = bench.machine
    if joint.setting_school == "ride" and joint.remote and not pulse.pulsed:
        text = (
            "The machine is set to twice the required current. A slip of the foot burns "
            "through thin sheet. Reduce the setting."
        )
        cautions.append(
            WithFix(
                Care("ride-slip", "current", text),
                "Use a small headroom",
                setting_school="headroom",
            )
        )
    if joint.remote and joint.control not in machine.controls:
        other = machine.controls[0] if machine.controls else "none"
        text = "{m} has no socket for a {c}. The current cannot be controlled that way. {how}"
        how = (
            f"Use a {CONTROLS[other]}."
            if machine.controls
            else "Set the required current, with slopes."
        )
        item = Care(
            "no-remote", "current", text, m=machine.name, c=CONTROLS[joint.control], how=how
        )
        cautions.append(
            WithFix(
                item,
                f"Use {'no remote control' if other == 'none' else 'the ' + CONTROLS[other]}",
                control=other,
            )
        )
    if not joint.remote and not machine.slopes:
        text = (
            "{m} has no slopes. The arc starts and ends at full current, and craters "
            "crack. Start and end on a tab, or return onto the bead before you break the "
            "arc."
        )
        cautions.append(Care("no-slopes", "current", text, m=machine.name))
    return cautions
