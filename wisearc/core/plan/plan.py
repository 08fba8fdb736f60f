"""The plan: every choice in the order of the bench, each taking the ones before that it needs. The
only place that joins all.
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
from .arc.need import build_current_model, is_braze
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


class SetByHand(Struct, frozen=True):
    """An answer that was set by hand: the joint's key, the answer, and what was set in words."""

    key: str
    answer: str
    words: Words


class Plan(Struct, frozen=True, kw_only=True):
    """A joint's whole set-up, complete in itself: the joint as data, in words and as it is drawn;
    the choices in the order they are read; what is done after; what was set by hand; every caution,
    most serious first. A plan that was kept comes back as the same.
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
    by_hand: tuple[SetByHand, ...]
    cautions: tuple[Caution, ...]

    @property
    def stopped(self) -> bool:
        """Whether any caution says not to weld this as it stands."""
        return any(c.level == "stop" for c in self.cautions)

    @property
    def start(self) -> str:
        """How the arc is started, "" for a plan that was kept before it was told."""
        return self.technique.start

    @property
    def metals(self) -> tuple[Metal | None, ...]:
        """The metals of its members; None for one that the catalogue has no more."""
        members = get_rows(self.joint, "members")
        return tuple(catalogue.load_metals().get(str(member.get("metal"))) for member in members)

    @property
    def choices(self) -> tuple[Choice, ...]:
        """Every choice, in the order they are read."""
        return tuple(getattr(self, kind.part) for kind in list_choice_kinds())


class Declared(Struct, frozen=True):
    """A figure as the plan has it: the choice it stands on, its key there, its declaration."""

    choice: type[Choice]
    key: str
    figure: Figure

    def of(self, plan: Plan) -> Any:
        """What a plan has for it."""
        return getattr(getattr(plan, self.choice.part), self.key)


@cache
def list_choice_kinds() -> tuple[type[Choice], ...]:
    """The kinds of choice a plan is made of, in the order they are read; each is the plan's
    attribute of its part.
    """
    return tuple(
        kind
        for kind in get_type_hints(Plan, localns=vars(json_types)).values()
        if isinstance(kind, type) and issubclass(kind, Choice)
    )


@cache
def list_declared_figures() -> tuple[Declared, ...]:
    """Every figure of the choices, in the order they are read."""
    return tuple(
        Declared(kind, key, found)
        for kind in list_choice_kinds()
        for key, found in list_figures(kind).items()
    )


def make_plan(joint: Joint, shop: Shop) -> Plan:
    """Work out the plan of a joint within a shop: on the machine that is on the bench now, or,
    where that brings a stop, on the one of the shop that brings fewest.

    Parameters: joint, checked; shop, what may be counted on. Returns Plan. Raises nothing of its
    own for a checked joint: what cannot be welded is a stop among the cautions.

    >>> from wisearc.core.joint.data import make_joint
    >>> from wisearc.core.shop.shop import ASSUMED
    >>> sheet = {"metal": "304L", "thickness": "16 ga"}
    >>> plan = make_plan(make_joint({"joint": "outside-corner", "members": [sheet, sheet],
    ...     "length_mm": 380}), ASSUMED)
    >>> round(plan.current.steady_a), plan.pulse.school, plan.torch.cup
    (50, 'slow-cold', 8)
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


# stops that another machine or torch may do without
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
    """Whether a plan carries a stop that another machine or torch may do without."""
    return any(c.level == "stop" and c.code in _SHOPS for c in plan.cautions)


def _has_current(bench: Bench, plan: Plan) -> bool:
    """Whether a machine gives the current of a joint at all, as near as can be told from a plan on
    another.
    """
    return (
        bench.machine.least_a <= 1.1 * plan.current.steady_a
        and bench.machine.most_a >= 0.9 * plan.current.steady_a
    )


def _add_shop_stop(plan: Plan) -> Plan:
    """A plan that stops by what the shop has, saying so."""
    words = (
        "No machine and torch in this shop suits this joint. Get the parts below, or "
        "change the joint."
    )
    return replace(plan, cautions=(*plan.cautions, Note("nothing-owned-works", "torch", words)))


def plan_on(joint: Joint, bench: Bench) -> Plan:
    """The plan of a joint on one machine, with the torch of it that serves."""
    section, made = build_section(joint), _Made()
    filler = made(choose_filler(joint, section, bench))
    made(calculate_weld_metal(joint, section, filler.rod))
    bare = filler.rod is None
    need = build_current_model(joint, section, bench, bare, is_braze(filler.rod))
    back = made(choose_back(joint, section, bench, need))
    pattern = choose_pattern(joint, section, bench, back, need)
    travel = made(choose_travel(joint, section, bare, need, pattern))
    current = made(choose_current(joint, section, bench, need, travel))
    pulse = made(choose_pulse(joint, bench, need, pattern, current))
    setting = made(choose_setting(joint, section, bench, current, pulse))
    heat = made(calculate_heat(joint, section, back, travel, pulse))
    tacks = made(choose_tacks(joint, section, bench, back, current, setting))
    fit = choose_fit(joint, section, bench, heat, pulse, tacks)
    tungsten = made(choose_tungsten(joint, section, pulse, tacks, fit))
    torch = made(choose_torch(joint, section, heat, fit))
    gas = made(choose_gas(joint, section, bench, back, travel, pulse, heat, torch, tacks))
    made(choose_fit_up(joint, section, filler))
    made(choose_technique(joint, section, bench, filler))
    after = list_after_weld(joint, section)
    made(summarise_stock(joint, section, bench, fit, filler, back, gas, made.choices))
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
        by_hand=set_by_hand(joint),
        cautions=made.cautions(together),
        **made.parts(),
    )


class _Made:
    """The choices of a plan as they are made; each goes on unrounded to those after it and is
    rounded to be kept.
    """

    def __init__(self) -> None:
        self.choices: list[Choice] = []

    def __call__(self, choice: C) -> C:
        self.choices.append(choice)
        return choice

    def parts(self) -> dict[str, Any]:
        """The choices by their part of the plan, as they are kept."""
        return {choice.part: round_figures(choice) for choice in self.choices}

    def cautions(self, together: tuple[Caution, ...]) -> tuple[Caution, ...]:
        """Theirs and those of several choices together, most serious first."""
        found = [c for choice in self.choices for c in choice.cautions]
        return tuple(sorted((*found, *together), key=lambda c: LEVELS.index(c.level)))


def set_by_hand(joint: Joint) -> tuple[SetByHand, ...]:
    """What of a joint sets an answer by hand: its own keys that do, then its pins."""
    found = []
    for key, declared in read_entries(Joint).items():
        if declared.answer and getattr(joint, key) not in (None, declared.usual):
            found.append(
                SetByHand(key, declared.answer, StoredText("set manually", "set manually"))
            )
    for name, value in joint.pins.items():
        pin = PINS[name]
        mm, inch = (
            f"{pin.label.lower()} {format_value(value, pin.quantity, habit)}"
            for habit in ("mm", "in")
        )
        found.append(SetByHand(f"pins.{name}", pin.answer, StoredText(mm, inch)))
    return tuple(found)
