"""The dial card: what goes on the machine and into the torch, in the figures that are read from a
metre.
"""

from __future__ import annotations

from msgspec import Struct

from ..core.plan.plan import Plan
from ..core.plan.shielding.back import minutes
from ..core.quantities import Quantity, amps_of
from ..core.schema.figures import in_words, shown


class DialFigure(Struct, frozen=True):
    """One thing that is set or fitted: its key, label, figure, unit, and a word beside it."""

    key: str
    label: str
    figure: str
    unit: str = ""
    beside: str = ""

    @property
    def text(self) -> str:
        """It in one piece: "9.6 L/min"."""
        return f"{self.figure} {self.unit}".strip()


class Dial(Struct, frozen=True):
    """What is set on the machine; what is fitted, held and laid; and what stands behind it."""

    machine: tuple[DialFigure, ...]
    torch: tuple[DialFigure, ...]
    behind: str

    @property
    def figures(self) -> tuple[DialFigure, ...]:
        """All of it."""
        return self.machine + self.torch


def dial(plan: Plan, habit: str = "mm") -> Dial:
    """The dial card of a plan, made or kept. Parameters: habit, "mm" or "in"."""
    return Dial(
        (*_current(plan), *_pulse(plan), *_slopes(plan), *_gas(plan, habit)),
        _torch(plan, habit),
        _behind(plan),
    )


def _number(
    key: str, label: str, value: float, kind: str, habit: str, beside: str = ""
) -> DialFigure:
    quantity = Quantity(value, kind)
    figure = quantity.number(habit)
    return DialFigure(key, label, figure, quantity.text(habit).removeprefix(figure).strip(), beside)


def _current(plan: Plan) -> list[DialFigure]:
    beside = "the peak" if plan.slopes.at_peak else ""
    return [_number("set", "Setting", plan.slopes.dial_a, "current", "mm", beside)]


def _pulse(plan: Plan) -> list[DialFigure]:
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
        _number("on", "Peak time", p.on_pct or 0.0, "percent", "mm"),
        _number("background", "Background", p.background_pct or 0.0, "percent", "mm"),
    ]


def _slopes(plan: Plan) -> list[DialFigure]:
    s = plan.slopes
    if s.start_a is None:
        return []
    return [
        _number("start", "Start", s.start_a, "current", "mm"),
        _number("up", "Up-slope", s.up_s, "seconds", "mm"),
        _number(
            "down", "Down-slope", s.down_s, "seconds", "mm", f"to {amps_of(s.finish_a or 0.0)} A"
        ),
    ]


def _gas(plan: Plan, habit: str) -> list[DialFigure]:
    g = plan.gas
    return [
        _number("gas", "Argon", g.flow_l_min, "flow", habit),
        _number("before", "Pre-flow", g.preflow_s, "seconds", habit),
        _number("after", "Post-flow", g.postflow_s, "seconds", habit),
    ]


def _torch(plan: Plan, habit: str) -> tuple[DialFigure, ...]:
    f, t, torch, back = plan.filler, plan.tungsten, plan.torch, plan.back
    rod = DialFigure(
        "rod",
        "Rod",
        f.rod or "none",
        "",
        in_words(f.diameter_mm, "stock", habit) if f.rod else "melt the edges",
    )
    tungsten = DialFigure(
        "tungsten",
        "Tungsten",
        shown(t, "diameter_mm", habit),
        "",
        f"{t.colour}, {shown(t, 'included_angle_deg', habit)}",
    )
    cup = DialFigure(
        "cup",
        "Cup",
        f"no. {torch.cup}",
        "",
        f"{torch.front_end_name}, stick-out {shown(torch, 'stickout_mm', habit)}",
    )
    fed = ""
    if back.purge:
        weld = Quantity(back.purge.weld_flow_l_min, "flow").text(habit)
        fed = (
            f"{weld} in the groove"
            if back.barred
            else f"{minutes(back.purge.before_s)} before the arc, then {weld}"
        )
    return rod, tungsten, cup, DialFigure("back", "Root side", back.cover_name, "", fed)


def _behind(plan: Plan) -> str:
    """Mean and steady current, which what is set comes of."""
    if plan.pulse.pulsed:
        return (
            f"Mean {amps_of(plan.pulse.average_a)} A; without pulse "
            f"{amps_of(plan.current.steady_a)} A."
        )
    if plan.slopes.dial_a > plan.current.steady_a + 0.5:
        return (
            f"The joint needs {amps_of(plan.current.steady_a)} A. The "
            f"{plan.joint.get('control', 'pedal')} holds back the rest."
        )
    return f"{amps_of(plan.current.steady_a)} A without pulse."
