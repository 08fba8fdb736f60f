"""The purge of a joint: asked for, forecast, timed, measured, and written down with the run."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ...core.errors import BadInput
from ...core.physics.heat_field import glow_after_stop_s, tails_mm
from ...core.physics.purge import (
    OFF_LEAST_S,
    SHAPES,
    VENT_PA,
    Course,
    Purging,
    air_back_l_min,
    argon_l,
    gap_area_mm2,
    layered,
    least_flow_l_min,
    make_purging,
    vent_mm,
    vent_pressure_pa,
)
from ...core.plan.arc.heat import field_of
from ...core.plan.plan import Plan
from ...core.plan.shielding.purge import (
    CHANNEL_MM,
    CLOSING_L_MIN,
    DAM_MM,
    HARM,
    VOLUMES,
    WELD_L_MIN,
    preflow_by_bore_l_min,
)
from ...core.quantities import (
    TYPED_WITH_UNIT,
    Quantity,
    exact,
    flow,
    length,
    parse_quantity,
    plain,
    temperature,
    typed_with_unit,
)
from ...core.schema.entries import entries
from ...core.sources import short_mark
from ...drawings.canvas import Drawing
from ...drawings.runs.purge_course import purge_course
from ...formats.declared import to_data
from ...formats.joint_json import loads

OFF_C, LONGEST_OFF_S = 200.0, 600.0


@dataclass(frozen=True)
class AskField:
    """A field of what is asked for: its key, label, unit, options, what stands in it, why that was
    refused.
    """

    key: str
    label: str
    unit: str
    options: tuple[tuple[str, str], ...]
    text: str
    fault: str = ""


@dataclass(frozen=True)
class Fact:
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
        return short_mark("estimate" if self.source else "common-practice")


@dataclass(frozen=True)
class PurgeView:
    """What the page of a purge shows before the gas is opened: what is asked for, its fields, the
    forecast in figures, what is wrong with it, the drawing, what goes in a form.
    """

    ask: Purging
    fields: tuple[AskField, ...]
    facts: tuple[Fact, ...]
    warnings: tuple[str, ...]
    drawing: Drawing
    pairs: tuple[tuple[str, str], ...]
    purged: bool
    harm: str = HARM

    @property
    def wrong(self) -> bool:
        """Whether a field was refused."""
        return any(f.fault for f in self.fields)


def asked_of(plan: Plan) -> dict[str, Any]:
    """What a plan asks of a purge: the space by its tubes, flows, vent, gap and target as it has
    them, else as the bench would.
    """
    tubes = [s for s in plan.section.sides if s.diameter_mm is not None]
    bore = max(((s.diameter_mm or 0.0) - 2 * s.thickness_mm for s in tubes), default=0.0)
    p = plan.back.purge if plan.back.purged else None
    data: dict[str, Any] = (
        {"shape": "tube", "bore_mm": round(bore, 2), "length_mm": 2 * DAM_MM}
        if bore
        else {"shape": "behind", "length_mm": round(plan.travel.length_mm, 1)}
    )
    before = p.preflow_l_min if p else preflow_by_bore_l_min(bore or CHANNEL_MM)
    if p is not None and p.volume_l:
        closed = make_purging(data).closed_l
        if abs(closed - p.volume_l) > 0.01 * p.volume_l + 0.001:
            data |= {"shape": "told", "volume_l": p.volume_l}
    weld = p.weld_flow_l_min if p else WELD_L_MIN
    target = plan.back.purge.target_ppm if plan.back.purge else 100.0
    own_vent = p.vent_mm if p and p.vent_mm else vent_mm(max(before, weld))
    return data | {
        "flow_l_min": before,
        "weld_l_min": weld,
        "vent_mm": round(own_vent + 0.049, 1),
        "gap_mm": plan.section.gap_mm,
        "target_ppm": target,
    }


def read_ask(plan: Plan, given: Mapping[str, str], habit: str) -> Purging:
    """What is asked for: a plan's own, with what an address says otherwise, as people type it.
    Raises BadInput.
    """
    data = asked_of(plan)
    for key, declared in entries(Purging).items():
        if text := given.get(key, "").strip():
            data[key] = (
                parse_quantity(_signed(text, key), declared.quantity, key, habit)
                if declared.kind == "number"
                else text
            )
    return make_purging(data)


def _signed(text: str, key: str) -> str:
    if text[:1] in ("-", "−"):
        raise BadInput(key, text, "cannot be below nought")
    return text


def purge_view(plan: Plan, given: Mapping[str, str], habit: str) -> PurgeView:
    """What a page shows of a plan's purge. Parameters: given, the page's own keys. What cannot be
    is said beside its field.
    """
    fault: BadInput | None = None
    try:
        ask = read_ask(plan, given, habit)
    except BadInput as error:
        fault, ask = error, make_purging(asked_of(plan))
    return PurgeView(
        ask,
        _fields(ask, given, fault, habit),
        _facts(plan, ask, habit),
        _warnings(plan, ask, habit),
        purge_course(course_of(plan, ask), ask.target_ppm),
        tuple(
            (key, typed_with_unit(text, entries(Purging)[key].quantity, habit))
            for key, text in given.items()
            if key in entries(Purging) and text.strip()
        ),
        plan.back.purged,
    )


def _fields(
    ask: Purging, given: Mapping[str, str], fault: BadInput | None, habit: str
) -> tuple[AskField, ...]:
    wanted = given.get("shape", ask.shape) if fault and given.get("shape") in SHAPES else ask.shape
    shown = (
        "shape",
        *SHAPES[wanted].fields,
        "flow_l_min",
        "weld_l_min",
        "vent_mm",
        "gap_mm",
        "target_ppm",
        "lag_s",
    )
    found = []
    for key in shown:
        declared = entries(Purging)[key]
        value = getattr(ask, key)
        text = given.get(key, "") if fault else ""
        if not text:
            text = value if declared.kind == "name" else _typed(value, declared.quantity, habit)
        options = tuple((name, option.label) for name, option in declared.allowed().items())
        wrong = ""
        if fault is not None and fault.field == key:
            wrong = fault.beside(habit)
        found.append(
            AskField(
                key,
                declared.label,
                "" if declared.quantity in TYPED_WITH_UNIT else declared.unit,
                options,
                str(text),
                wrong,
            )
        )
    return tuple(found)


def _typed(value: float, quantity: str, habit: str) -> str:
    if quantity == "length":
        return exact(value).text(habit)
    return flow(value).text(habit) if quantity == "flow" else f"{value:g}"


def course_of(plan: Plan, ask: Purging, welding: bool = False) -> Course:
    """The forecast of what is asked for, mixed: before, or while it is welded."""
    q = ask.weld_l_min if welding else ask.flow_l_min
    return Course(
        ask.closed_l, q, air_back_l_min(q, _gap_mm2(plan, ask), plan.section.thin_mm, ask.vent_mm)
    )


def _gap_mm2(plan: Plan, ask: Purging) -> float:
    return gap_area_mm2(ask.gap_mm, plan.travel.length_mm)


def off_after_s(plan: Plan) -> float:
    """How long the gas stays on behind after the arc, s: until the hottest is below 200 °C, half a
    minute at least. Estimate.
    """
    heat = field_of(plan.section, plan.back, plan.travel, plan.pulse)
    return max(
        OFF_LEAST_S, glow_after_stop_s(heat, OFF_C, tails_mm(heat, (OFF_C,))[0], LONGEST_OFF_S)
    )


def before_s(ask: Purging) -> float:
    """The time of ten volumes, s. Common practice."""
    return 60 * VOLUMES * ask.closed_l / ask.flow_l_min


def _facts(plan: Plan, ask: Purging, habit: str) -> tuple[Fact, ...]:
    course = course_of(plan, ask)
    mixed, soonest = course.reaches_s(ask.target_ppm), layered(course).reaches_s(ask.target_ppm)
    target = f"{ask.target_ppm:g} ppm"
    off = off_after_s(plan)
    used = argon_l(before_s(ask), ask.flow_l_min, plan.travel.arc_time_s, ask.weld_l_min, off)
    cylinder = (
        f", {100 * used / plan.shop.cylinder_l:.1f} % of the cylinder"
        if plan.shop.cylinder_l
        else ""
    )
    least = least_flow_l_min(_gap_mm2(plan, ask), plan.section.thin_mm, ask.vent_mm)
    return (
        Fact(
            "Closed off",
            (
                Quantity(ask.closed_l, "litres").text(habit)
                if habit == "mm"
                else f"{plain(ask.closed_l, 2)} L"
            ),
            "the volume behind",
            "purge-volume",
        ),
        Fact(
            "Before",
            _clock(before_s(ask)),
            f"ten volumes at {flow(ask.flow_l_min).text(habit)}; the bench's rule",
        ),
        Fact(
            "Mixed",
            _clock(mixed) if mixed else "never",
            (
                f"to {target} if all of it is stirred"
                if mixed
                else f"it settles at {course.settles_ppm:.0f} ppm"
            ),
            "purge-mixed",
        ),
        Fact(
            "Layered",
            _clock(soonest) if soonest else "never",
            "at the soonest, if the argon fills it from below" if soonest else "",
            "purge-layered",
        ),
        Fact(
            "Welding",
            flow(ask.weld_l_min).text(habit),
            (
                f"air stays out from {flow(least).text(habit)} on"
                if least > 0
                else "no opening but the vent"
            ),
            "purge-outflow",
        ),
        Fact(
            "Vent",
            exact(ask.vent_mm).text(habit),
            f"{vent_pressure_pa(max(ask.flow_l_min, ask.weld_l_min), ask.vent_mm):.0f} Pa inside,"
            f" {VENT_PA:.0f} at most",
            "purge-vent",
        ),
        Fact(
            "To close",
            flow(CLOSING_L_MIN).text(habit),
            "turn down to this before the last of the seam, vent open",
        ),
        Fact(
            "Off after",
            _clock(off),
            f"below {temperature(OFF_C).text(habit)}; sooner, the back tints",
            "purge-off",
        ),
        Fact("Argon", f"{used:.0f} L", f"behind alone{cylinder}", "purge-volume"),
    )


def _warnings(plan: Plan, ask: Purging, habit: str) -> tuple[str, ...]:
    found = []
    least = least_flow_l_min(_gap_mm2(plan, ask), plan.section.thin_mm, ask.vent_mm)
    if ask.weld_l_min < least - 1e-9:
        found.append(
            f"Air comes back at {flow(ask.weld_l_min).text(habit)}: hold {flow(least).text(habit)}"
            " while welding, close the gap, or make the vent smaller."
        )
    greatest = max(ask.flow_l_min, ask.weld_l_min)
    if vent_pressure_pa(greatest, ask.vent_mm) > 1.02 * VENT_PA:
        found.append(
            f"That vent holds back {vent_pressure_pa(greatest, ask.vent_mm):.0f} Pa: it blows the"
            f" pool out. Make it {length(round(vent_mm(greatest) + 0.05, 1)).text(habit)}, or turn"
            " down."
        )
    course = course_of(plan, ask)
    if course.settles_ppm >= ask.target_ppm:
        found.append(
            f"With this gap it settles at {course.settles_ppm:.0f} ppm, above what is wanted: tape"
            " the seam as you go, or close the gap."
        )
    return tuple(found)


def _clock(seconds: float) -> str:
    return Quantity(seconds, "duration").text()


def purge_file(plan: Plan) -> dict[str, Any] | None:
    """The purge of a plan as data: as the plan has it, and what a page shows beside. None where it
    has none.
    """
    if plan.back.purge is None:
        return None
    found: dict[str, Any] = dict(to_data(plan.back.purge))
    if not plan.back.purged:
        return found
    ask = make_purging(asked_of(plan))
    course, weld = course_of(plan, ask), course_of(plan, ask, welding=True)
    soonest = layered(course).reaches_s(ask.target_ppm)
    return found | {
        "minutes_layered": None if soonest is None else round(soonest / 60, 2),
        "settles_ppm": round(weld.settles_ppm, 1),
        "air_l_min": round(weld.air_l_min, 6),
        "off_after_s": round(off_after_s(plan), 1),
        "argon_l": round(
            argon_l(
                before_s(ask),
                ask.flow_l_min,
                plan.travel.arc_time_s,
                ask.weld_l_min,
                off_after_s(plan),
            ),
            1,
        ),
    }


def purged_text(text: str) -> str:
    """A joint file's text with a purge asked for at its back."""
    data = loads(text)
    return json.dumps({**data, "back": "purge"} if isinstance(data, dict) else data)
