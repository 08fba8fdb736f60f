"""The purge of a joint in words: what is asked for, the forecast in figures, what is wrong with
it.
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from ..core.errors import InputError
from ..core.physics.purge import (
    VENT_PA,
    Purging,
    argon_l,
    calculate_unmixed_course,
    least_flow_l_min,
    make_purging,
    vent_mm,
    vent_pressure_pa,
)
from ..core.plan.plan import Plan
from ..core.plan.shielding.purge import CLOSING_L_MIN, HARM
from ..core.quantities import (
    Quantity,
    add_typed_unit,
    exact,
    flow,
    format_plain,
    length,
    temperature,
)
from ..core.schema.entries import read_entries
from ..core.sources import format_short_mark
from ..drawings.canvas import Drawing
from ..drawings.runs.purge_course import purge_course
from ..forms.fields import Field
from ..forms.purge import purge_fields, read_ask
from ..services.purge.purging import (
    OFF_C,
    before_s,
    build_ask,
    calculate_course,
    gap_mm2,
    off_after_s,
)


class Fact(Struct, frozen=True):
    """A figure of the forecast: its label, the figure, what it says, and the estimate it is by ("":
    common practice).
    """

    label: str
    figure: str
    more: str = ""
    source: str = ""

    @property
    def mark(self) -> str:
        """How sure it is, as a chip shows it."""
        return format_short_mark("estimate" if self.source else "common-practice")


class PurgeView(Struct, frozen=True):
    """What the page of a purge shows before the gas is opened: what is asked for, its fields, the
    forecast in figures, what is wrong with it, the drawing, what goes in a form.
    """

    ask: Purging
    fields: tuple[Field, ...]
    facts: tuple[Fact, ...]
    warnings: tuple[str, ...]
    drawing: Drawing
    pairs: tuple[tuple[str, str], ...]
    purged: bool
    harm: str = HARM

    @property
    def wrong(self) -> bool:
        """Whether a field was refused."""
        return any(f.error for f in self.fields)


def purge_view(plan: Plan, given: Mapping[str, str], habit: str) -> PurgeView:
    """What a page shows of a plan's purge. Parameters: given, the page's own keys. What cannot be
    is said beside its field.
    """
    fault: InputError | None = None
    try:
        ask = read_ask(plan, given, habit)
    except InputError as error:
        fault, ask = error, make_purging(build_ask(plan))
    return PurgeView(
        ask,
        purge_fields(ask, given, fault, habit),
        _list_facts(plan, ask, habit),
        _list_warnings(plan, ask, habit),
        purge_course(calculate_course(plan, ask), ask.target_ppm),
        tuple(
            (key, add_typed_unit(text, read_entries(Purging)[key].quantity, habit))
            for key, text in given.items()
            if key in read_entries(Purging) and text.strip()
        ),
        plan.back.purged,
    )


def _list_facts(plan: Plan, ask: Purging, habit: str) -> tuple[Fact, ...]:
    course = calculate_course(plan, ask)
    mixed, soonest = (
        course.reaches_s(ask.target_ppm),
        calculate_unmixed_course(course).reaches_s(ask.target_ppm),
    )
    target = f"{ask.target_ppm:g} ppm"
    off = off_after_s(plan)
    used = argon_l(before_s(ask), ask.flow_l_min, plan.travel.arc_time_s, ask.weld_l_min, off)
    cylinder = (
        f", {100 * used / plan.shop.cylinder_l:.1f} % of the cylinder"
        if plan.shop.cylinder_l
        else ""
    )
    least = least_flow_l_min(gap_mm2(plan, ask), plan.section.thin_mm, ask.vent_mm)
    return (
        Fact(
            "Purge volume",
            (
                Quantity(ask.closed_l, "litres").text(habit)
                if habit == "mm"
                else f"{format_plain(ask.closed_l, 2)} L"
            ),
            "volume behind the seam",
            "purge-volume",
        ),
        Fact(
            "Time before the arc",
            _format_clock(before_s(ask)),
            f"ten volumes at {flow(ask.flow_l_min).text(habit)}, by the rule of thumb",
        ),
        Fact(
            "Fully mixed",
            _format_clock(mixed) if mixed else "never",
            (
                f"to {target} if the argon mixes fully"
                if mixed
                else f"it settles at {course.settles_ppm:.0f} ppm"
            ),
            "purge-mixed",
        ),
        Fact(
            "Unmixed",
            _format_clock(soonest) if soonest else "never",
            "shortest time, if the argon fills it from the bottom" if soonest else "",
            "purge-layered",
        ),
        Fact(
            "During the weld",
            flow(ask.weld_l_min).text(habit),
            (
                f"keeps air out from {flow(least).text(habit)} up"
                if least > 0
                else "no opening except the vent"
            ),
            "purge-outflow",
        ),
        Fact(
            "Vent",
            exact(ask.vent_mm).text(habit),
            (
                f"{vent_pressure_pa(max(ask.flow_l_min, ask.weld_l_min), ask.vent_mm):.0f} Pa "
                f"inside, maximum {VENT_PA:.0f}"
            ),
            "purge-vent",
        ),
        Fact(
            "For closing",
            flow(CLOSING_L_MIN).text(habit),
            "reduce to this flow before the last of the seam, with the vent open",
        ),
        Fact(
            "End of purge",
            _format_clock(off),
            f"below {temperature(OFF_C).text(habit)}. Before that, the root tints",
            "purge-off",
        ),
        Fact("Argon", f"{used:.0f} L", f"backing argon only{cylinder}", "purge-volume"),
    )


def _list_warnings(plan: Plan, ask: Purging, habit: str) -> tuple[str, ...]:
    found = []
    least = least_flow_l_min(gap_mm2(plan, ask), plan.section.thin_mm, ask.vent_mm)
    if ask.weld_l_min < least - 1e-9:
        found.append(
            f"Air enters at {flow(ask.weld_l_min).text(habit)}. The root oxidises. Use "
            f"{flow(least).text(habit)} during the weld, close the gap, or make the vent "
            "smaller."
        )
    greatest = max(ask.flow_l_min, ask.weld_l_min)
    if vent_pressure_pa(greatest, ask.vent_mm) > 1.02 * VENT_PA:
        found.append(
            f"The vent causes {vent_pressure_pa(greatest, ask.vent_mm):.0f} Pa. That "
            "blows out the pool. Make it "
            f"{length(round(vent_mm(greatest) + 0.05, 1)).text(habit)}, or reduce the flow."
        )
    course = calculate_course(plan, ask)
    if course.settles_ppm >= ask.target_ppm:
        found.append(
            f"With this gap the oxygen settles at {course.settles_ppm:.0f} ppm, above the "
            "target. The root oxidises. Tape the seam ahead of the arc, or close the gap."
        )
    return tuple(found)


def _format_clock(seconds: float) -> str:
    return Quantity(seconds, "duration").text()
