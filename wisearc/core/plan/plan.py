"""The plan: every choice in the order of the bench, each with exactly the earlier choices it needs.

Only this module combines them all.
"""

from __future__ import annotations

from functools import cache
from typing import Any, TypeVar, get_type_hints

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..catalogue.rows import Metal
from ..joint.data import echoed_data
from ..joint.joint import Joint
from ..joint.section import Section, build_section
from ..joint.words import Part, build_sentence, format_short_title
from ..reasons import LEVELS, Caution, Choice, Note, Reason, StoredText, Words
from ..schema import json_types
from ..schema.entries import read_entries
from ..schema.figures import Figure, format_value, list_figures, round_figures
from ..schema.json_types import JsonObject, get_rows
from ..shop.bench import Bench, list_benches
from ..shop.shop import ASSUMED, Shop
from .arc.current import Current, choose_current
from .arc.electrical import check_currents
from .arc.heat import HeatResult, calculate_heat
from .arc.need import build_current_model
from .arc.pin_conflicts import pin_cautions
from .arc.pulse import Pulse, choose_pulse
from .arc.pulse_pattern import choose_pattern
from .arc.setting import Setting, choose_setting
from .arc.travel import Travel, choose_travel
from .filler_metal.filler import Filler, choose_filler
from .filler_metal.weld_metal import WeldMetal, calculate_weld_metal
from .pins import PINS
from .preparation.fit_up import FitUp, choose_fit_up
from .preparation.safety import list_safety_cautions
from .preparation.tacks import Tacks, choose_tacks
from .preparation.technique import Technique, choose_technique, list_after_weld
from .shielding.back import Back, choose_back
from .shielding.gas import Gas, choose_gas
from .torch.fit import choose_fit
from .torch.owned import Build, summarise_stock
from .torch.torch import Torch, choose_torch
from .torch.tungsten import Tungsten, choose_tungsten

C = TypeVar("C", bound=Choice)


class ManualAnswer(Struct, frozen=True):
    """A manual answer: the key in the joint, the answer, and the text of the value."""

    key: str
    answer: str
    words: Words


class Plan(Struct, frozen=True, kw_only=True):
    """The complete plan of a joint, independent of other data.

    The joint as data, sentence and section, the choices in display order, the work after welding,
    the manual answers and every caution, most serious first. A saved plan is read back unchanged.
    """

    joint: JsonObject
    title: Words
    sentence: tuple[Part, ...]
    section: Section
    filler: Filler
    weld_metal: WeldMetal
    current: Current
    slopes: Setting
    pulse: Pulse
    travel: Travel
    tungsten: Tungsten
    torch: Torch
    gas: Gas
    back: Back
    fit_up: FitUp
    tacks: Tacks
    heat: HeatResult
    technique: Technique
    shop: Build
    after: tuple[Reason, ...]
    by_hand: tuple[ManualAnswer, ...]
    cautions: tuple[Caution, ...]

    @property
    def stopped(self) -> bool:
        """Return whether a caution forbids welding."""
        return any(c.level == "stop" for c in self.cautions)

    @property
    def start(self) -> str:
        """Return the arc start, or "" for a saved plan from before this field."""
        return self.technique.start

    @property
    def metals(self) -> tuple[Metal | None, ...]:
        """Return the metals of its members, None for one that the catalogue no longer has."""
        members = get_rows(self.joint, "members")
        return tuple(catalogue.load_metals().get(str(member.get("metal"))) for member in members)

    @property
    def choices(self) -> tuple[Choice, ...]:
        """Return every choice in display order."""
        return tuple(getattr(self, kind.part) for kind in list_choice_kinds())


class Declared(Struct, frozen=True):
    """A figure of the plan: its choice, its key and its declaration."""

    choice: type[Choice]
    key: str
    figure: Figure

    def of(self, plan: Plan) -> Any:
        """Return the value in a plan."""
        return getattr(getattr(plan, self.choice.part), self.key)


@cache
def list_choice_kinds() -> tuple[type[Choice], ...]:
    """Return the types of choices in display order.

    Each is an attribute of the plan with the name of its part.
    """
    return tuple(
        kind
        for kind in get_type_hints(Plan, localns=vars(json_types)).values()
        if isinstance(kind, type) and issubclass(kind, Choice)
    )


@cache
def list_declared_figures() -> tuple[Declared, ...]:
    """Return every figure of the choices in display order."""
    return tuple(
        Declared(kind, key, figure)
        for kind in list_choice_kinds()
        for key, figure in list_figures(kind).items()
    )


def make_plan(joint: Joint, shop: Shop) -> Plan:
    """Calculate the plan of a joint within a shop.

    The machine in use comes first. If it causes a stop, the machine with the fewest stops is used.
    A joint that cannot be welded has a stop among its cautions, without an exception.

    Args:
        joint: The checked joint.
        shop: The equipment.

    >>> from wisearc.core.joint.data import make_joint
    >>> from wisearc.core.shop.shop import ASSUMED
    >>> sheet = {"metal": "304L", "thickness": "16 ga"}
    >>> plan = make_plan(make_joint({"joint": "outside-corner", "members": [sheet, sheet],
    ...     "length_mm": 380}), ASSUMED)
    >>> round(plan.current.steady_a), plan.pulse.school, plan.torch.cup
    (51, 'slow-cold', 8)
    """
    first, *others = list_benches(shop)
    taken = plan_on(joint, first)
    if not _is_stopped_by_shop(taken) or not (shop.machines or shop.torches):
        return taken
    for bench in others:
        if _has_current(bench, taken):
            plan = plan_on(joint, bench)
            taken = plan if _count_stops(plan) < _count_stops(taken) else taken
        if not _is_stopped_by_shop(taken):
            return taken
    free = plan_on(joint, list_benches(ASSUMED)[0])
    return taken if _count_stops(taken) <= _count_stops(free) else _add_shop_stop(taken)


# Stops that another machine or torch can remove.
_SHOPS = (
    "machine-too-small",
    "machine-too-big",
    "peak-too-high",
    "torch-overrun",
    "stickout-too-long",
)


def _count_stops(plan: Plan) -> int:
    return sum(c.level == "stop" for c in plan.cautions)


def _is_stopped_by_shop(plan: Plan) -> bool:
    """Return whether a plan has a stop that another machine or torch can remove."""
    return any(c.level == "stop" and c.code in _SHOPS for c in plan.cautions)


def _has_current(bench: Bench, plan: Plan) -> bool:
    """Return whether a machine can deliver the current, by a plan on another machine.

    Another pulse pattern can change the travel speed, and with it the current.
    """
    currents = plan.current.steady_a, plan.current.bench_rule_a
    return bench.machine.least_a <= 1.1 * max(currents) and bench.machine.most_a >= 0.9 * min(
        currents
    )


def _add_shop_stop(plan: Plan) -> Plan:
    """Return a plan with a stop for missing equipment."""
    text = (
        "No machine and torch in this shop suits this joint. Get the parts below, or "
        "change the joint."
    )
    return replace(plan, cautions=(*plan.cautions, Note("nothing-owned-works", "torch", text)))


def plan_on(joint: Joint, bench: Bench) -> Plan:
    """Calculate the plan of a joint on one machine, with its best torch.

    Args:
        joint: The joint.
        bench: The machine with its torches and the stock.
    """
    section, choices = build_section(joint), _Choices()
    filler = choices(choose_filler(joint, section, bench))
    choices(calculate_weld_metal(joint, section, filler.rod))
    need = build_current_model(joint, section, bench, filler.rod, filler.leg_mm)
    back = choices(choose_back(joint, section, bench, need))
    pattern = choose_pattern(joint, section, bench, back, need)
    travel = choices(choose_travel(joint, section, filler, need, pattern))
    current = choices(choose_current(joint, section, bench, need, travel))
    pulse = choices(choose_pulse(joint, bench, need, pattern, current))
    setting = choices(choose_setting(joint, section, bench, current, pulse))
    heat = choices(calculate_heat(joint, section, back, travel, pulse))
    tacks = choices(choose_tacks(joint, section, bench, back, current, setting))
    fit = choose_fit(joint, section, bench, heat, pulse, tacks)
    tungsten = choices(choose_tungsten(joint, section, pulse, tacks, fit))
    torch = choices(choose_torch(joint, section, current, heat, fit))
    gas = choices(choose_gas(joint, section, bench, back, travel, pulse, heat, torch, tacks))
    choices(choose_fit_up(joint, section, filler))
    choices(choose_technique(joint, section, bench, filler, tacks))
    after = list_after_weld(joint, section)
    choices(summarise_stock(joint, section, bench, fit, filler, back, gas, choices.choices))
    together = (
        *check_currents(joint, bench, fit, current, pulse, setting, tacks, tungsten),
        *pin_cautions(joint, filler, back, pulse),
        *list_safety_cautions(joint, section, pulse),
    )
    return Plan(
        joint=echoed_data(joint),
        title=StoredText(format_short_title(joint), format_short_title(joint, "in")),
        sentence=build_sentence(joint, back.purged),
        section=round_figures(section),
        after=after,
        by_hand=list_manual_answers(joint),
        cautions=choices.cautions(together),
        **choices.parts(),
    )


class _Choices:
    """The choices of a plan in progress.

    Later choices use unrounded values, and the plan has rounded ones.
    """

    def __init__(self) -> None:
        self.choices: list[Choice] = []

    def __call__(self, choice: C) -> C:
        self.choices.append(choice)
        return choice

    def parts(self) -> dict[str, Any]:
        """Return the rounded choices by their part of the plan."""
        return {choice.part: round_figures(choice) for choice in self.choices}

    def cautions(self, together: tuple[Caution, ...]) -> tuple[Caution, ...]:
        """Return the cautions of all choices and of their combination, most serious first."""
        cautions = [c for choice in self.choices for c in choice.cautions]
        return tuple(sorted((*cautions, *together), key=lambda c: LEVELS.index(c.level)))


def list_manual_answers(joint: Joint) -> tuple[ManualAnswer, ...]:
    """Return the manual answers of a joint: fields of the joint, then pins."""
    labels = []
    for key, declared in read_entries(Joint).items():
        if declared.answer and getattr(joint, key) not in (None, declared.usual):
            labels.append(
                ManualAnswer(key, declared.answer, StoredText("set manually", "set manually"))
            )
    for name, value in joint.pins.items():
        pin = PINS[name]
        mm, inch = (
            f"{pin.label.lower()} {format_value(value, pin.quantity, units)}"
            for units in ("mm", "in")
        )
        labels.append(ManualAnswer(f"pins.{name}", pin.answer, StoredText(mm, inch)))
    return tuple(labels)
