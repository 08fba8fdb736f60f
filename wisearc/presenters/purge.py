"""The purge of a joint as page contents: request, forecast in figures, problems."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from ..core.errors import InputError
from ..core.physics.purge import (
    VENT_PA,
    PurgeRequest,
    argon_l,
    calculate_unmixed_course,
    make_purging,
    min_flow_l_min,
    vent_mm,
    vent_pressure_pa,
)
from ..core.plan.plan import Plan
from ..core.plan.purge_end import purge_off_s
from ..core.plan.shielding.purge import CLOSING_L_MIN, HAZARD, OFF_BELOW_C
from ..core.quantities import Quantity, exact, flow, format_plain, length, temperature
from ..core.schema.entries import read_entries
from ..core.sources import format_short_mark
from ..core.typed_quantities import add_typed_unit
from ..drawings.canvas import Drawing
from ..drawings.runs.purge_course import purge_course
from ..forms.fields import Field
from ..forms.purge import purge_fields, read_ask
from ..services.purge.purge_forecast import (
    before_s,
    build_ask,
    calculate_course,
    gap_mm2,
)


class Fact(Struct, frozen=True):
    """A figure of the forecast.

    Label, value, explanation, and the key of its estimate ("": common practice).
    """

    label: str
    figure: str
    more: str = ""
    source: str = ""

    @property
    def mark(self) -> str:
        """Return its evidence level for the label."""
        return format_short_mark("estimate" if self.source else "common-practice")


class PurgeView(Struct, frozen=True):
    """The contents of the purge page before the gas is opened.

    Request, fields, forecast, problems, drawing, hidden form values.
    """

    ask: PurgeRequest
    fields: tuple[Field, ...]
    facts: tuple[Fact, ...]
    warnings: tuple[str, ...]
    drawing: Drawing
    pairs: tuple[tuple[str, str], ...]
    purged: bool
    hazard: str = HAZARD

    @property
    def wrong(self) -> bool:
        """Return whether a field has an error."""
        return any(f.error for f in self.fields)


def purge_view(plan: Plan, values: Mapping[str, str], units: str) -> PurgeView:
    """Return the contents of the purge page.

    A wrong value has an error at its field.

    Args:
        plan: The plan.
        values: The typed keys of the page.
        units: Unit system.
    """
    fault: InputError | None = None
    try:
        ask = read_ask(plan, values, units)
    except InputError as error:
        fault, ask = error, make_purging(build_ask(plan))
    return PurgeView(
        ask,
        purge_fields(ask, values, fault, units),
        _list_facts(plan, ask, units),
        _list_warnings(plan, ask, units),
        purge_course(calculate_course(plan, ask), ask.target_ppm),
        tuple(
            (key, add_typed_unit(text, read_entries(PurgeRequest)[key].quantity, units))
            for key, text in values.items()
            if key in read_entries(PurgeRequest) and text.strip()
        ),
        plan.back.purged,
    )


def _list_facts(plan: Plan, ask: PurgeRequest, units: str) -> tuple[Fact, ...]:
    course = calculate_course(plan, ask)
    mixed, soonest = (
        course.reaches_s(ask.target_ppm),
        calculate_unmixed_course(course).reaches_s(ask.target_ppm),
    )
    target = f"{ask.target_ppm:g} ppm"
    off = purge_off_s(plan)
    used = argon_l(before_s(ask), ask.flow_l_min, plan.travel.arc_time_s, ask.weld_l_min, off)
    cylinder = (
        f", {100 * used / plan.shop.cylinder_l:.1f} % of the cylinder"
        if plan.shop.cylinder_l
        else ""
    )
    minimum = min_flow_l_min(gap_mm2(plan, ask), plan.section.thin_mm, ask.vent_mm)
    return (
        Fact(
            "Purge volume",
            (
                Quantity(ask.closed_l, "litres").text(units)
                if units == "mm"
                else f"{format_plain(ask.closed_l, 2)} L"
            ),
            "volume behind the seam",
            "purge-volume",
        ),
        Fact(
            "Time before the arc",
            _format_clock(before_s(ask)),
            f"ten volumes at {flow(ask.flow_l_min).text(units)}, by the rule of thumb",
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
            flow(ask.weld_l_min).text(units),
            (
                f"keeps air out from {flow(minimum).text(units)} up"
                if minimum > 0
                else "no opening except the vent"
            ),
            "purge-outflow",
        ),
        Fact(
            "Vent",
            exact(ask.vent_mm).text(units),
            (
                f"{vent_pressure_pa(max(ask.flow_l_min, ask.weld_l_min), ask.vent_mm):.0f} Pa "
                f"inside, maximum {VENT_PA:.0f}"
            ),
            "purge-vent",
        ),
        Fact(
            "For closing",
            flow(CLOSING_L_MIN).text(units),
            "reduce to this flow before the last of the seam, with the vent open",
        ),
        Fact(
            "End of purge",
            _format_clock(off),
            f"below {temperature(OFF_BELOW_C).text(units)}. Before that, the root tints",
            "purge-off",
        ),
        Fact("Argon", f"{used:.0f} L", f"backing argon only{cylinder}", "purge-volume"),
    )


def _list_warnings(plan: Plan, ask: PurgeRequest, units: str) -> tuple[str, ...]:
    warnings = []
    minimum = min_flow_l_min(gap_mm2(plan, ask), plan.section.thin_mm, ask.vent_mm)
    if ask.weld_l_min < minimum - 1e-9:
        warnings.append(
            f"Air enters at {flow(ask.weld_l_min).text(units)}. The root oxidises. Use "
            f"{flow(minimum).text(units)} during the weld, close the gap, or make the vent "
            "smaller."
        )
    max_share = max(ask.flow_l_min, ask.weld_l_min)
    if vent_pressure_pa(max_share, ask.vent_mm) > 1.02 * VENT_PA:
        warnings.append(
            f"The vent causes {vent_pressure_pa(max_share, ask.vent_mm):.0f} Pa. That "
            "blows out the pool. Make it "
            f"{length(round(vent_mm(max_share) + 0.05, 1)).text(units)}, or reduce the flow."
        )
    course = calculate_course(plan, ask)
    if course.settles_ppm >= ask.target_ppm:
        warnings.append(
            f"With this gap the oxygen settles at {course.settles_ppm:.0f} ppm, above the "
            "target. The root oxidises. Tape the seam ahead of the arc, or close the gap."
        )
    return tuple(warnings)


def _format_clock(seconds: float) -> str:
    return Quantity(seconds, "duration").text()
