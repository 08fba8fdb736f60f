"""The run over time: gas, backing gas, current with slopes, and the enlarged pulse."""

from __future__ import annotations

from ...core.plan.plan import Plan
from ...core.quantities import format_plain
from ...core.schema.figures import fill_template, format_figure
from ..canvas import Canvas, Drawing

WIDTH, HEIGHT = 700.0, 430.0
LEFT, RIGHT = 86.0, 676.0
GAS_Y, BACK_Y = 46.0, 80.0
CURRENT_TOP, CURRENT_BOTTOM = 112.0, 222.0
PULSE_TOP, PULSE_BOTTOM = 292.0, 392.0
PEDAL_TAPER_S = 1.5
PERIODS = 4
# Closer pulses cannot be distinguished, px.
MIN_PERIOD_PX = 2.0


def draw_over_time(plan: Plan, units: str = "mm", palette: str = "screen") -> Drawing:
    """Draw the run over time.

    Args:
        plan: A new or saved plan.
        units: Unit system.
        palette: Colours.
    """
    canvas = Canvas(WIDTH, HEIGHT, "Weld timeline", _describe_drawing(plan, units), palette)
    _draw_lanes(canvas, plan, units)
    _draw_current(canvas, plan)
    _draw_pulse(canvas, plan)
    return canvas.drawing()


def _describe_drawing(plan: Plan, units: str) -> str:
    p, (up, down) = plan.pulse, _get_slopes(plan)
    pulse = (
        (
            f"pulsed {format_plain(p.rate_pps, 1)} per second between {p.background_a:.0f} and "
            f"{p.peak_a:.0f} A"
        )
        if p.pulsed and p.rate_pps
        else f"unpulsed at {format_figure(plan.current, 'steady_a', units)}"
    )
    gas = fill_template(
        "Argon {flow_l_min} from {preflow_s} before the arc to {postflow_s} after it",
        plan.gas,
        units,
    )
    return (
        f"{gas}. Arc {plan.travel.arc_time_s:.0f} s, {pulse}. Up-slope {format_plain(up, 1)} "
        f"s, down-slope {format_plain(down, 1)} s."
    )


def _get_slopes(plan: Plan) -> tuple[float, float]:
    s = plan.slopes
    return (s.up_s, s.down_s) if s.start_a is not None else (0.5, PEDAL_TAPER_S)


def _find_span(plan: Plan) -> tuple[float, float]:
    """Return the time range, s; the arc starts at 0."""
    return -plan.gas.preflow_s, plan.travel.arc_time_s + plan.gas.postflow_s


def _place_x(plan: Plan, t: float) -> float:
    first, last = _find_span(plan)
    return LEFT + (t - first) / (last - first) * (RIGHT - LEFT)


def _draw_lanes(canvas: Canvas, plan: Plan, units: str) -> None:
    first, last = _find_span(plan)
    canvas.frame(1, 0, 0)
    _draw_lane(
        canvas,
        "Argon",
        GAS_Y,
        _place_x(plan, first),
        _place_x(plan, last),
        format_figure(plan.gas, "flow_l_min", units),
    )
    if plan.back.purge:
        _draw_lane(
            canvas,
            "Backing",
            BACK_Y,
            LEFT,
            _place_x(plan, last),
            format_figure(plan.back.purge, "weld_flow_l_min", units) + ", from before the tacks",
        )
    else:
        canvas.text((12, BACK_Y + 5), "Backing", colour="ink-2", size=13, pixels=True)
        canvas.text((LEFT, BACK_Y + 5), "no gas", pixels=True)
    arc_end = plan.travel.arc_time_s
    for t, text, anchor in (
        (0.0, "arc on", "start"),
        (arc_end, fill_template("arc off, gas for {postflow_s} more", plan.gas, units), "end"),
    ):
        x = _place_x(plan, t)
        canvas.path_px(f"M{x:.1f} {GAS_Y - 14}V{CURRENT_BOTTOM}", "line", 1)
        canvas.text(
            (x + (3 if anchor == "start" else -3), GAS_Y - 18), text, anchor, pixels=True, size=12
        )
    canvas.text(
        (_place_x(plan, last), CURRENT_BOTTOM + 18),
        f"{format_plain(last, 0)} s",
        "end",
        size=12,
        pixels=True,
    )
    canvas.text(
        (LEFT, CURRENT_BOTTOM + 18),
        fill_template("−{preflow_s}", plan.gas, units),
        size=12,
        pixels=True,
    )


def _draw_lane(canvas: Canvas, name: str, y: float, start: float, end: float, text: str) -> None:
    canvas.text((12, y + 5), name, size=13, pixels=True)
    canvas.polygon(
        [(start, y - 11), (end, y - 11), (end, y + 11), (start, y + 11)], "gas", None, opacity=0.7
    )
    canvas.text((start + 8, y + 5), text, colour="ink", size=13, pixels=True)


def _draw_current(canvas: Canvas, plan: Plan) -> None:
    p, s = plan.pulse, plan.slopes
    top = max(p.peak_a, s.machine_a)
    arc = plan.travel.arc_time_s
    up, down = _get_slopes(plan)
    up, down = min(up, arc / 3), min(down, arc / 3)

    def at(t: float, amps: float) -> tuple[float, float]:
        return _place_x(plan, t), CURRENT_BOTTOM - amps / top * (CURRENT_BOTTOM - CURRENT_TOP)

    start, finish = s.start_a or 5.0, s.finish_a or 5.0
    upper = [
        at(0, 0),
        at(0, start),
        at(up, p.peak_a),
        at(arc - down, p.peak_a),
        at(arc, finish),
        at(arc, 0),
    ]
    if p.background_a is not None:
        lower = [at(arc - down, p.background_a), at(up, p.background_a)]
        canvas.polygon([*upper[1:5], *lower], "pool", None, opacity=0.2)
        _draw_pulses(canvas, plan, at(up, p.peak_a), at(arc - down, p.background_a))
        canvas.polyline([at(up, p.average_a), at(arc - down, p.average_a)], "ink", 1.5, "5 4")
        canvas.text(
            (_place_x(plan, arc / 2), at(0, p.average_a)[1] - 6),
            f"mean {p.average_a:.0f} A",
            "middle",
            "ink",
            pixels=True,
        )
    else:
        canvas.polygon(upper, "pool", None, opacity=0.35)
    canvas.polyline(upper, "ink", 2)
    canvas.text((12, CURRENT_BOTTOM - 2), "Current", size=13, pixels=True)
    canvas.text((LEFT - 6, at(0, p.peak_a)[1] + 5), f"{p.peak_a:.0f} A", "end", "ink", pixels=True)
    canvas.path_px(f"M{LEFT} {CURRENT_BOTTOM}H{RIGHT}", "ink-2", 1)


def _draw_pulses(
    canvas: Canvas, plan: Plan, first: tuple[float, float], last: tuple[float, float]
) -> None:
    """Draw every pulse at its true frequency if they can be distinguished.

    Otherwise a text replaces them.
    """
    p = plan.pulse
    if not p.rate_pps or not p.on_pct:
        return
    period = (_place_x(plan, 1.0) - _place_x(plan, 0.0)) / p.rate_pps
    count, high = int((last[0] - first[0]) / period), last[1] - first[1]
    if count < 1:
        return
    if period < MIN_PERIOD_PX:
        text = f"{format_plain(p.rate_pps, 1)} per second, too close to draw"
        canvas.text((RIGHT, CURRENT_BOTTOM + 42), text, "end", pixels=True, size=12)
        return
    on = period * p.on_pct / 100
    cycle = f"v{-high:.1f}m{period:.2f} {high:.1f}"
    canvas.path_px(f"M{first[0] + on / 2:.1f} {last[1]:.1f}" + cycle * count, "pool", round(on, 2))


def _draw_pulse(canvas: Canvas, plan: Plan) -> None:
    p = plan.pulse
    canvas.path_px(f"M{LEFT} {PULSE_BOTTOM}H{RIGHT}", "ink-2", 1)
    if not p.on_pct or not p.rate_pps or p.background_a is None:
        text = (
            "By pedal: about one dab per second, 0.7 to 1.2."
            if p.rate_pps
            else "Without pulse the current is constant."
        )
        canvas.text((LEFT, PULSE_TOP + 20), text, colour="ink", size=14, pixels=True)
        return
    period, on, low = (RIGHT - LEFT) / PERIODS, p.on_pct / 100, p.background_a

    def y(amps: float) -> float:
        return PULSE_BOTTOM - amps / p.peak_a * (PULSE_BOTTOM - PULSE_TOP)

    points: list[tuple[float, float]] = []
    for i in range(PERIODS):
        x = LEFT + i * period
        points += [
            (x, y(low)),
            (x, y(p.peak_a)),
            (x + on * period, y(p.peak_a)),
            (x + on * period, y(low)),
        ]
    points.append((RIGHT, y(low)))
    canvas.polygon(
        [(LEFT, PULSE_BOTTOM), *points, (RIGHT, PULSE_BOTTOM)], "pool", None, opacity=0.35
    )
    canvas.polyline(points, "ink", 2)
    canvas.polyline([(LEFT, y(p.average_a)), (RIGHT, y(p.average_a))], "ink", 1.5, "5 4")
    seconds = PERIODS / p.rate_pps
    displayed = (
        f"{format_plain(seconds, 1)} s" if seconds >= 1 else f"{format_plain(seconds * 1000, 0)} ms"
    )
    canvas.text(
        (LEFT, PULSE_TOP - 12),
        f"{PERIODS} pulses, {displayed}, magnified",
        colour="ink",
        size=14,
        weight=550,
        pixels=True,
    )
    canvas.text((LEFT - 6, y(p.peak_a) + 5), f"{p.peak_a:.0f} A", "end", "ink", pixels=True)
    canvas.text((LEFT - 6, y(low) + 5), f"{low:.0f} A", "end", "ink", pixels=True)
    canvas.text(
        (RIGHT, PULSE_BOTTOM + 20),
        f"peak time {format_plain(p.on_pct, 0)} %, mean {p.average_a:.0f} A",
        "end",
        pixels=True,
    )
