"""What a run really was against its plan: current, pace, pool, hot band, glow, jet, from what was
set, measured and logged, by the plan's own physics.
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
from ..physics.heat import GLOW_C, HOT_BAND_C, distance_to_peak_mm, net_power_w
from ..physics.heat_field import glow_after_stop_s, tails_mm
from ..plan.arc.heat import build_heat_field
from ..plan.plan import Plan, make_plan
from ..plan.torch.front_end import bore_mm, cover_mm
from ..run.run import NO_ROD, ArcSummary, Run
from ..schema.json_types import Json, JsonObject, get_object
from ..shop.shop import Shop
from .holding import Held, find_held

NO_ARC = ArcSummary("timer")
# what Wells's heat flow asks before the pool's width counts
STANDING = 0.2


def change_joint_data(joint: JsonObject, sets: JsonObject) -> dict[str, Json]:
    """A joint's data with keys set, or released where they are None; "pins.key" is one of its
    pins.
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
    """How wide the sheet passes a temperature where it goes as planned, mm. Adams 1958."""
    power = net_power_w(plan.heat.arc_voltage_v, plan.slopes.mean_a)
    return _band_mm(plan, power, plan.travel.speed_mm_s, plan.travel.pool_width_mm, over_c)


def _band_mm(plan: Plan, power_w: float, speed_mm_s: float, wide_mm: float, over_c: float) -> float:
    heat, h_mm = plan.section.heat, plan.section.h_mm
    return wide_mm + 2 * distance_to_peak_mm(heat, h_mm, power_w, speed_mm_s, over_c)


class Actual(Struct, frozen=True, dict=True):
    """A run and its plan, in a shop. Figures that a run does not tell are the plan's. tried: the
    plans that were made of it with a change in them.
    """

    plan: Plan
    run: Run
    shop: Shop
    tried: dict[Any, Any] = field(default_factory=dict)

    def planned_with(self, sets: JsonObject) -> Plan | InputError:
        """The plan of its joint today with keys set or released, made once for each; what is wrong
        with it where there can be none.
        """
        key = tuple(sorted((name, str(value)) for name, value in sets.items()))
        if key not in self.tried:
            try:
                self.tried[key] = make_plan(
                    make_joint(change_joint_data(self.plan.joint, sets)), self.shop
                )
            except InputError as error:
                self.tried[key] = error
        found: Plan | InputError = self.tried[key]
        return found

    @cached_property
    def today(self) -> Plan | None:
        """The plan of its joint by today's rules, shelf and record: one that was kept may be of
        older ones; None where its joint is of another version.
        """
        found = self.planned_with({})
        return None if isinstance(found, InputError) else found

    @cached_property
    def held(self) -> Held:
        """What of the plan is held in a change of it."""

        def plan_with(sets: JsonObject) -> Plan | None:
            found = self.planned_with(sets)
            return None if isinstance(found, InputError) else found

        return Held() if self.today is None else find_held(self.plan, self.today, plan_with)

    @cached_property
    def stand_today(self) -> frozenset[str]:
        """The codes of the cautions that the plan's joint has today, but for notes."""
        return (
            frozenset(c.code for c in self.today.cautions if c.level != "note")
            if self.today
            else frozenset()
        )

    @cached_property
    def arc(self) -> ArcSummary:
        """What it tells of its arc; nothing of it where it does not tell."""
        return self.run.arc or NO_ARC

    @cached_property
    def logged(self) -> bool:
        """Whether the current was logged."""
        return self.arc.logged and self.arc.mean_a is not None

    @cached_property
    def set_mean_a(self) -> float | None:
        """The mean current that what was set comes to, A; None where it was not told. By a pedal
        what is set is not what burns: its share of the plan's set is taken.
        """
        done, plan = self.run.set, self.plan
        if done.current_a is None:
            return None
        if not plan.pulse.pulsed:
            return plan.slopes.mean_a * float(done.current_a) / plan.slopes.machine_a

        def share(told: float | None, own: float | None) -> float:
            return float(own or 0.0 if told is None else told) / 100

        on = share(done.on_pct, plan.pulse.on_pct)
        background = share(done.background_pct, plan.pulse.background_pct)
        return float(done.current_a) * (on + background * (1 - on))

    @cached_property
    def mean_a(self) -> float | None:
        """The mean current that burned, A: as logged, else as set; None where neither was told."""
        mean = self.arc.mean_a
        return float(mean) if self.logged and mean is not None else self.set_mean_a

    @cached_property
    def share(self) -> float | None:
        """The current, of that planned."""
        return None if self.mean_a is None else self.mean_a / self.plan.slopes.mean_a

    @cached_property
    def travel_mm_s(self) -> float | None:
        """How fast it went, mm/s; None where length or arc time was not told."""
        return self.run.travel_mm_s

    @cached_property
    def pool_mm(self) -> float | None:
        """The pool that current and pace melt, mm, on the plan's own scale: Wells 1952, turned
        round. None where neither was told.
        """
        if self.share is None and self.travel_mm_s is None:
            return None
        a, travel = self.plan.section.heat.a, self.plan.travel
        speed = self.travel_mm_s or travel.speed_mm_s
        asked = (self.share or 1.0) * (
            STANDING + travel.speed_mm_s * travel.pool_width_mm / (4 * a)
        )
        return max(0.0, (asked - STANDING) * 4 * a / speed)

    @cached_property
    def power_w(self) -> float:
        """The power that entered the sheet, W."""
        return net_power_w(self.plan.heat.arc_voltage_v, self.mean_a or self.plan.slopes.mean_a)

    @cached_property
    def hot_band_mm(self) -> float:
        """How wide the sheet passed 450 °C, mm. Adams 1958."""
        return self.band_mm(HOT_BAND_C)

    def band_mm(self, over_c: float) -> float:
        """How wide the sheet passed a temperature, mm. Adams 1958."""
        speed = self.travel_mm_s or self.plan.travel.speed_mm_s
        wide = self.plan.travel.pool_width_mm if self.pool_mm is None else self.pool_mm
        return _band_mm(self.plan, self.power_w, speed, wide, over_c)

    @cached_property
    def cup(self) -> int:
        """The cup that was used."""
        return int(self.run.used.cup or self.plan.torch.cup)

    @cached_property
    def bore_mm(self) -> float:
        """Its bore, mm."""
        return bore_mm(self.cup)

    @cached_property
    def cover_mm(self) -> float:
        """How wide it covers, mm. Estimate."""
        return cover_mm(self.plan.torch.front_end, self.cup)

    @cached_property
    def flow_l_min(self) -> float:
        """The flow that was set, L/min, or planned."""
        found = self.run.set.flow_l_min
        return float(self.plan.gas.flow_l_min if found is None else found)

    @cached_property
    def reynolds(self) -> float:
        """The Reynolds number of its jet."""
        return calculate_reynolds(self.flow_l_min, self.bore_mm)

    @cached_property
    def exit_speed_m_s(self) -> float:
        """How fast it leaves the cup, m/s."""
        return exit_speed_m_s(self.flow_l_min, self.bore_mm)

    @cached_property
    def glow_s(self) -> float:
        """How long the end glows after the arc has stopped, s: the plan's, and where more current
        burned by the field of that.
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
        """How long the gas stayed on the end, s: the least of what was held, logged and set; None
        where none was told.
        """
        told = (self.arc.held_s, self.arc.postflow_s, self.run.set.postflow_s)
        return min((one for one in told if one is not None), default=None)

    @cached_property
    def arc_v(self) -> float | None:
        """The arc's mean voltage as logged, V; None where it was assumed."""
        arc = self.arc
        if not self.logged or not arc.energy_kj or not arc.arc_s or not arc.mean_a:
            return None
        volts = 1000 * arc.energy_kj / (arc.mean_a * arc.arc_s)
        return None if abs(volts - self.plan.heat.arc_voltage_v) < 0.05 else volts

    @cached_property
    def carbon_rod(self) -> bool | None:
        """Whether a steel rod went into stainless; None where no rod is fed."""
        name = self.run.used.rod or self.plan.filler.rod
        rod = catalogue.load_rods().get(str(name)) if name and name != NO_ROD else None
        return (
            None if rod is None or not self.plan.section.stainless_sides else rod.kind == "carbon"
        )
