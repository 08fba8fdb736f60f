"""The settings card: machine settings and torch parts, large enough to read from a metre."""

from __future__ import annotations

from msgspec import Struct

from ..core.plan.plan import Plan
from ..core.plan.shielding.back import format_minutes
from ..core.quantities import Quantity, format_amps
from ..core.schema.figures import format_figure, format_value

# From this headroom on, the card shows the current of the arc too, A: half a step of its figures.
HEADROOM_SHOWN_A = 0.5


class DialFigure(Struct, frozen=True):
    """A setting or a part: key, label, figure, unit, additional text."""

    key: str
    label: str
    figure: str
    unit: str = ""
    beside: str = ""

    @property
    def text(self) -> str:
        """Return its text: "9.6 L/min"."""
        return f"{self.figure} {self.unit}".strip()


class Dial(Struct, frozen=True):
    """The machine settings, the parts and positions, and the root cover."""

    machine: tuple[DialFigure, ...]
    torch: tuple[DialFigure, ...]
    behind: str

    @property
    def figures(self) -> tuple[DialFigure, ...]:
        """Return all of them."""
        return self.machine + self.torch


def build_dial(plan: Plan, units: str = "mm") -> Dial:
    """Build the settings card of a new or saved plan.

    Args:
        plan: The plan.
        units: Unit system, "mm" or "in".
    """
    return Dial(
        (*_list_current(plan), *_list_pulse(plan), *_list_slopes(plan), *_list_gas(plan, units)),
        _list_torch(plan, units),
        _describe_current(plan),
    )


def _build_number(
    key: str, label: str, value: float, kind: str, units: str, note: str = ""
) -> DialFigure:
    quantity = Quantity(value, kind)
    figure = quantity.number(units)
    return DialFigure(key, label, figure, quantity.text(units).removeprefix(figure).strip(), note)


def _has_headroom(plan: Plan) -> bool:
    """Return whether the pedal or slide holds back a part of the setting."""
    return plan.slopes.dial_a > plan.current.steady_a + HEADROOM_SHOWN_A


def _list_current(plan: Plan) -> list[DialFigure]:
    note = "the peak" if plan.slopes.at_peak else ""
    label = "Setting"
    if not plan.slopes.at_peak and _has_headroom(plan):
        label, note = "Dial", f"arc {format_amps(plan.current.steady_a)} A"
    return [_build_number("set", label, plan.slopes.dial_a, "current", "mm", note)]


def _list_pulse(plan: Plan) -> list[DialFigure]:
    p = plan.pulse
    if not p.pulsed or p.rate_pps is None:
        return [
            DialFigure(
                "pulse",
                "Pulse",
                "dabs" if p.rate_pps else "off",
                "",
                "about one per second, by pedal" if p.rate_pps else "",
            )
        ]
    return [
        DialFigure("rate", "Pulse frequency", Quantity(p.rate_pps, "rate").number(), "per second"),
        _build_number("on", "Peak time", p.on_pct or 0.0, "percent", "mm"),
        _build_number("background", "Background", p.background_pct or 0.0, "percent", "mm"),
    ]


def _list_slopes(plan: Plan) -> list[DialFigure]:
    s = plan.slopes
    if s.start_a is None:
        return []
    return [
        _build_number("start", "Start", s.start_a, "current", "mm"),
        _build_number("up", "Up-slope", s.up_s, "seconds", "mm"),
        _build_number(
            "down",
            "Down-slope",
            s.down_s,
            "seconds",
            "mm",
            f"to {format_amps(s.finish_a or 0.0)} A",
        ),
    ]


def _list_gas(plan: Plan, units: str) -> list[DialFigure]:
    g = plan.gas
    return [
        _build_number("gas", "Argon", g.flow_l_min, "flow", units),
        _build_number("before", "Pre-flow", g.preflow_s, "seconds", units),
        _build_number("after", "Post-flow", g.postflow_s, "seconds", units),
    ]


def _list_torch(plan: Plan, units: str) -> tuple[DialFigure, ...]:
    f, t, torch, back = plan.filler, plan.tungsten, plan.torch, plan.back
    rod = DialFigure(
        "rod",
        "Rod",
        f.rod or "none",
        "",
        format_value(f.diameter_mm, "stock", units) if f.rod else "melt the edges",
    )
    tungsten = DialFigure(
        "tungsten",
        "Tungsten",
        format_figure(t, "diameter_mm", units),
        "",
        f"{t.colour}, {format_figure(t, 'included_angle_deg', units)}",
    )
    cup = DialFigure(
        "cup",
        "Cup",
        f"no. {torch.cup}",
        "",
        f"{torch.front_end_name}, stick-out {format_figure(torch, 'stickout_mm', units)}",
    )
    fed = ""
    if back.purge:
        weld = Quantity(back.purge.weld_flow_l_min, "flow").text(units)
        fed = (
            f"{weld} in the groove"
            if back.barred
            else f"{format_minutes(back.purge.before_s)} before the arc, then {weld}"
        )
    return rod, tungsten, cup, DialFigure("back", "Root side", back.cover_name, "", fed)


def _describe_current(plan: Plan) -> str:
    """Return the mean and the steady current behind the setting."""
    if plan.pulse.pulsed:
        return (
            f"Mean {format_amps(plan.pulse.average_a)} A; without pulse "
            f"{format_amps(plan.current.steady_a)} A."
        )
    if _has_headroom(plan):
        return (
            f"The joint needs {format_amps(plan.current.steady_a)} A. The "
            f"{plan.joint.get('control', 'pedal')} holds back the rest."
        )
    return f"{format_amps(plan.current.steady_a)} A without pulse."
