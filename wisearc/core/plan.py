"""The plan: every choice, in order, each seeing the ones before. The only place that joins all."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from .choices import (
    back,
    current,
    filler,
    fit_up,
    gas,
    harm,
    pin_conflicts,
    pulse,
    rhythm,
    setting,
    tacks,
    torch,
    tungsten,
    warmth,
)
from .choices.so_far import SoFar
from .joint import Joint
from .reasons import LEVELS, Caution, Choice
from .section import Section, section_of
from .shop import ASSUMED, Shop

# the order in which choices can be made; a later one may ask for any before it
ORDER: tuple[Callable[[SoFar], Choice], ...] = (
    filler.choose,
    back.choose,
    rhythm.choose,
    current.choose,
    pulse.choose,
    setting.choose,
    warmth.choose,
    tungsten.choose,
    torch.choose,
    tacks.choose,
    gas.choose,
    fit_up.choose,
    pin_conflicts.choose,
    harm.choose,
)


@dataclass(frozen=True)
class Plan:
    """A joint's whole set-up: the choices, and every caution, most serious first."""

    joint: Joint
    section: Section
    shop: Shop
    filler: filler.Filler
    back: back.Back
    rhythm: rhythm.Rhythm
    current: current.Current
    pulse: pulse.Pulse
    setting: setting.Setting
    warmth: warmth.Warmth
    tungsten: tungsten.Tungsten
    torch: torch.Torch
    tacks: tacks.Tacks
    gas: gas.Gas
    fit_up: fit_up.FitUp
    harm: harm.Harm
    cautions: tuple[Caution, ...]

    @property
    def stopped(self) -> bool:
        """Whether any caution says not to weld this as it stands."""
        return any(c.level == "stop" for c in self.cautions)


def make_plan(joint: Joint, shop: Shop = ASSUMED) -> Plan:
    """Work out the plan of a joint.

    Parameters: joint, checked; shop, what may be counted on. Returns Plan. Raises nothing of its own for a
    checked joint: what cannot be welded is a stop among the cautions.

    >>> from wisearc.core.joint import make_joint
    >>> sheet = {"metal": "304L", "thickness": "16 ga"}
    >>> plan = make_plan(make_joint({"joint": "outside-corner", "members": [sheet, sheet], "length_mm": 380}))
    >>> round(plan.current.steady_a), plan.rhythm.school.key, plan.torch.cup
    (50, 'slow-cold', 8)
    """
    so_far = SoFar(joint, section_of(joint), shop)
    for choose in ORDER:
        so_far.put(choose(so_far))
    return Plan(
        joint=joint, section=so_far.section, shop=shop,
        filler=so_far.get(filler.Filler), back=so_far.get(back.Back), rhythm=so_far.get(rhythm.Rhythm),
        current=so_far.get(current.Current), pulse=so_far.get(pulse.Pulse), setting=so_far.get(setting.Setting),
        warmth=so_far.get(warmth.Warmth), tungsten=so_far.get(tungsten.Tungsten), torch=so_far.get(torch.Torch),
        tacks=so_far.get(tacks.Tacks), gas=so_far.get(gas.Gas), fit_up=so_far.get(fit_up.FitUp),
        harm=so_far.get(harm.Harm), cautions=_gather(so_far),
    )  # fmt: skip


def _gather(so_far: SoFar) -> tuple[Caution, ...]:
    found = [c for choice in so_far.made() for c in choice.cautions]
    return tuple(sorted(found, key=lambda c: LEVELS.index(c.level)))
