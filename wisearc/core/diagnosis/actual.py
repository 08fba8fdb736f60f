"""The actual weld of a run: current, travel speed, pool, hot width, glow and gas jet.

They follow from the set, measured and logged values by the physics of the plan.
"""

from __future__ import annotations

from functools import cached_property
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from .. import catalogue
from ..errors import InputError
from ..joint.data import make_joint
from ..physics.gas import calculate_reynolds, exit_speed_m_s
from ..physics.heat import GLOW_C, HOT_BAND_C, net_power_w
from ..physics.heat_field import glow_after_stop_s, tails_mm
from ..plan.arc.plan_field import build_heat_field, build_plan_profile
from ..plan.plan import Plan, make_plan
from ..plan.torch.front_end import bore_mm, cover_mm
from ..run.run import NO_ROD, ArcSummary, Run
from ..schema.json_types import Json, JsonObject, get_object
from ..shop.shop import Shop
from .held_values import Held, find_held

NO_ARC = ArcSummary("timer")
# Minimum Wells number for which the pool width is valid.
MIN_SHARE = 0.2


def change_joint_data(joint: JsonObject, sets: JsonObject) -> dict[str, Json]:
    """Return the data of a joint with changed keys.

    Args:
        joint: The data.
        sets: Keys and values. None removes a key, and "pins.key" is a manual answer.
    """
    data, pins = dict(joint), get_object(joint, "pins")
    for key, value in sets.items():
        name = key.removeprefix("pins.")
        where = data if name == key else pins
        for old in (name, f"{name}_mm", name.removesuffix("_mm")) if where is data else (name,):
            where.pop(old, None)
        if value is not None:
            where[name] = value
    return data | {"pins": pins}


def planned_band_mm(plan: Plan, over_c: float) -> float:
    """Return the planned width that exceeds a temperature, mm.

    Adams 1958. Bars: estimate.

    Args:
        plan: The plan.
        over_c: Temperature, °C.
    """
    power = net_power_w(plan.heat.arc_voltage_v, plan.slopes.mean_a)
    return _band_mm(plan, power, plan.travel.speed_mm_s, plan.travel.pool_width_mm, over_c)


def _band_mm(plan: Plan, power_w: float, speed_mm_s: float, wide_mm: float, over_c: float) -> float:
    profile = build_plan_profile(plan.section, plan.back, power_w, speed_mm_s, wide_mm)
    return wide_mm + 2 * profile.find_distance_mm(over_c)


class Actual(Struct, frozen=True, dict=True):
    """A run and its plan in a shop.

    Missing figures of the run come from the plan. `tried` has the plans with a change.
    """

    plan: Plan
    run: Run
    shop: Shop
    tried: dict[Any, Any] = field(default_factory=dict)

    def planned_with(self, sets: JsonObject) -> Plan | InputError:
        """Return the current plan of its joint with changed keys, or the error.

        Each plan is calculated once.
        """
        key = tuple(sorted((name, str(value)) for name, value in sets.items()))
        if key not in self.tried:
            try:
                self.tried[key] = make_plan(
                    make_joint(change_joint_data(self.plan.joint, sets)), self.shop
                )
            except InputError as error:
                self.tried[key] = error
        result: Plan | InputError = self.tried[key]
        return result

    @cached_property
    def today(self) -> Plan | None:
        """Return the plan of its joint by the current rules, stock and shop history.

        A saved plan can be older. The result is None for a joint of another version.
        """
        result = self.planned_with({})
        return None if isinstance(result, InputError) else result

    @cached_property
    def held(self) -> Held:
        """Return the values of the plan that a change must keep."""

        def plan_with(sets: JsonObject) -> Plan | None:
            result = self.planned_with(sets)
            return None if isinstance(result, InputError) else result

        return Held() if self.today is None else find_held(self.plan, self.today, plan_with)

    @cached_property
    def current_cautions(self) -> frozenset[str]:
        """Return the caution codes of the current plan of the joint, without notes."""
        return (
            frozenset(c.code for c in self.today.cautions if c.level != "note")
            if self.today
            else frozenset()
        )

    @cached_property
    def arc(self) -> ArcSummary:
        """Return the arc figures of the run, all empty if it has none."""
        return self.run.arc or NO_ARC

    @cached_property
    def logged(self) -> bool:
        """Return whether the current was logged."""
        return self.arc.logged and self.arc.mean_a is not None

    @cached_property
    def set_mean_a(self) -> float | None:
        """Return the mean of the set current, A, or None if unknown.

        With a pedal the actual current is lower, so the ratio to the planned setting is used.
        """
        done, plan = self.run.set, self.plan
        if done.current_a is None:
            return None
        if not plan.pulse.pulsed:
            return plan.slopes.mean_a * float(done.current_a) / plan.slopes.machine_a

        def share(actual_value: float | None, planned_value: float | None) -> float:
            return float(planned_value or 0.0 if actual_value is None else actual_value) / 100

        on = share(done.on_pct, plan.pulse.on_pct)
        background = share(done.background_pct, plan.pulse.background_pct)
        return float(done.current_a) * (on + background * (1 - on))

    @cached_property
    def measured_mean_a(self) -> float | None:
        """Return the mean current that was measured, A, or None.

        It is logged, or else read off while welding: the current, or the peak of a pulse.
        """
        if self.logged and self.arc.mean_a is not None:
            return float(self.arc.mean_a)
        measured, plan = self.run.measured, self.plan
        if measured.read_off_a is not None:
            return float(measured.read_off_a)
        if measured.peak_a is not None and plan.pulse.pulsed:
            return plan.slopes.mean_a * float(measured.peak_a) / plan.pulse.peak_a
        return None

    @cached_property
    def current_source(self) -> str:
        """Return the origin of the current: "log", "read" while welding, or "set"."""
        return "log" if self.logged else "set" if self.measured_mean_a is None else "read"

    @cached_property
    def mean_a(self) -> float | None:
        """Return the mean current, A: measured, or else set, or None."""
        return self.set_mean_a if self.measured_mean_a is None else self.measured_mean_a

    @cached_property
    def share(self) -> float | None:
        """Return the current relative to the plan."""
        return None if self.mean_a is None else self.mean_a / self.plan.slopes.mean_a

    @cached_property
    def travel_mm_s(self) -> float | None:
        """Return the travel speed, mm/s, or None without length or arc time."""
        return self.run.travel_mm_s

    @cached_property
    def pool_mm(self) -> float | None:
        """Return the pool width from current and travel speed, mm, or None.

        Inverted Wells 1952, on the scale of the plan.
        """
        if self.share is None and self.travel_mm_s is None:
            return None
        a, travel = self.plan.section.heat.a, self.plan.travel
        speed = self.travel_mm_s or travel.speed_mm_s
        asked = (self.share or 1.0) * (
            MIN_SHARE + travel.speed_mm_s * travel.pool_width_mm / (4 * a)
        )
        return max(0.0, (asked - MIN_SHARE) * 4 * a / speed)

    @cached_property
    def power_w(self) -> float:
        """Return the power into the metal, W."""
        return net_power_w(self.plan.heat.arc_voltage_v, self.mean_a or self.plan.slopes.mean_a)

    @cached_property
    def hot_band_mm(self) -> float:
        """Return the width above 450 °C, mm.

        Adams 1958. Bars: estimate.
        """
        return self.band_mm(HOT_BAND_C)

    def band_mm(self, over_c: float) -> float:
        """Return the width above a temperature, mm.

        Adams 1958. Bars: estimate.
        """
        speed = self.travel_mm_s or self.plan.travel.speed_mm_s
        wide = self.plan.travel.pool_width_mm if self.pool_mm is None else self.pool_mm
        return _band_mm(self.plan, self.power_w, speed, wide, over_c)

    @cached_property
    def cup(self) -> int:
        """Return the cup number used."""
        return int(self.run.used.cup or self.plan.torch.cup)

    @cached_property
    def bore_mm(self) -> float:
        """Return the bore of the cup, mm."""
        return bore_mm(self.cup)

    @cached_property
    def cover_mm(self) -> float:
        """Return the shielding width, mm.

        Estimate.
        """
        return cover_mm(self.plan.torch.front_end, self.cup)

    @cached_property
    def flow_l_min(self) -> float:
        """Return the set or planned flow, L/min."""
        flow = self.run.set.flow_l_min
        return float(self.plan.gas.flow_l_min if flow is None else flow)

    @cached_property
    def reynolds(self) -> float:
        """Return the Reynolds number of the gas jet."""
        return calculate_reynolds(self.flow_l_min, self.bore_mm)

    @cached_property
    def exit_speed_m_s(self) -> float:
        """Return the exit speed of the gas, m/s."""
        return exit_speed_m_s(self.flow_l_min, self.bore_mm)

    @cached_property
    def glow_s(self) -> float:
        """Return the glow time of the crater, s.

        It is that of the plan, or of a calculation with the actual current if that is higher.
        """
        plan, heat = (
            self.plan,
            build_heat_field(self.plan.section, self.plan.back, self.plan.travel, self.plan.pulse),
        )
        if self.share is None or abs(self.share - 1) < 0.02:
            return plan.heat.glow_after_stop_s
        hotter = replace(heat, power_w=heat.power_w * self.share)
        (tail,) = tails_mm(hotter, (GLOW_C,))
        return glow_after_stop_s(hotter, GLOW_C, tail)

    @cached_property
    def covered_s(self) -> float | None:
        """Return the gas time on the crater, s: the minimum of held, logged and set, or None."""
        candidates = (self.arc.held_s, self.arc.postflow_s, self.run.set.postflow_s)
        return min((value_s for value_s in candidates if value_s is not None), default=None)

    @cached_property
    def arc_v(self) -> float | None:
        """Return the logged mean arc voltage, V, or None."""
        arc = self.arc
        if not self.logged or not arc.energy_kj or not arc.arc_s or not arc.mean_a:
            return None
        volts = 1000 * arc.energy_kj / (arc.mean_a * arc.arc_s)
        return None if abs(volts - self.plan.heat.arc_voltage_v) < 0.05 else volts

    @cached_property
    def carbon_rod(self) -> bool | None:
        """Return whether a carbon-steel rod was used in stainless, or None without a rod."""
        name = self.run.used.rod or self.plan.filler.rod
        rod = catalogue.load_rods().get(str(name)) if name and name != NO_ROD else None
        return (
            None if rod is None or not self.plan.section.stainless_sides else rod.kind == "carbon"
        )
