"""Simulated welders with one hidden error in a plan, for tests of the diagnosis.

The result follows from the physics of heat and gas. The record has the part that a welder would
note. Nothing here uses the diagnosis: pool by Wells 1952, heat next to it by Adams 1958, gas jet by
Reynolds number and speed, glow by the cooling of the crater; the rest by the trade (common
practice, no source). A seeded generator chooses the size of an error, and the noticed and missed
signs.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from random import Random
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from wisearc.core import catalogue
from wisearc.core.plan.plan import Plan

GOOD_COVER = {"gas-lens": 1.5, "plain": 1.0}
TEARS = {"gas-lens": 2000.0, "plain": 1400.0}
# Colours by the temperature of a bare face: published heat-tint tables for 304-type stainless, from
# memory.
TINTS = ((290, "silver"), (390, "straw"), (420, "brown"), (540, "purple"), (640, "blue"))
# A sheet is at its peak for a moment, and the tables are for a longer time: one tint less.
MOMENT_C = 130.0


class World(Struct, frozen=True):
    """The real conditions at the arc: ratios to the plan, or figures; and the technique."""

    need: float = 1.0  # The real need of machine and welder, relative to the plan.
    dial: float = 1.0  # The real current, relative to the dial.
    turned: float = 1.0  # The dial setting, relative to the plan.
    travel_speed: float = 1.0
    flow: float = 1.0
    smaller_cups: int = 0
    reach_mm: float = 0.0
    draught: float = 0.0
    held: float = 1.0
    post: float = 1.0
    gap: float = 0.3
    ppm: float = 0.5
    bare: bool = False
    half: bool = False
    taper: float = 1.0
    arc: float = 1.0
    late_s: float = 0.0
    dirt: bool = False
    dammed: bool = True
    on_thin: bool = False
    before_pool: bool = False
    swings: bool = False
    tacks: float = 1.0
    iron: bool = False
    steel_rod: bool = False
    heavy: float = 1.0
    pulls: bool = False
    touched: bool = False
    root_chill: float = 0.0  # The further share of current that the root needs.
    early: bool = False
    closed: bool = False
    pressure: bool = False
    usual: frozenset[str] = frozenset()  # The slips of `SHOWS`.


# The flaws of a slip by probability. The table is independent of the weights of the diagnosis:
# common practice, no source. The probabilities are estimates.
SHOWS: Mapping[str, Mapping[str, float]] = {
    "gas-path": {"grey-all": 0.85, "pores": 0.6, "rod-grey": 0.4, "tungsten-dark": 0.4},
    "tungsten-in-air": {"tungsten-dark": 0.97, "arc-wander": 0.1},
    "tungsten-worn": {"arc-wander": 0.97, "wobble": 0.05, "uneven": 0.1},
    "magnetised": {"arc-wander": 0.97, "undercut": 0.1},
    "fit-poor": {"misaligned": 0.97, "edge-lost": 0.05},
    "hot-short": {"crack-centreline": 0.97, "crater-crack": 0.15},
    "hard-zone": {"crack-toe": 0.97},
    "tint-left": {"rust": 0.97},
    "rusts-by-nature": {"rust": 0.97},
    "toe-starved": {"undercut": 0.95},
    "damp-rod": {"pores": 0.97},
}
ASKED_BY = {
    "gas-path": "spot-grey",
    "tungsten-in-air": "cap-loose",
    "magnetised": "leans",
    "hot-short": "held-tight",
    "hard-zone": "cold-metal",
    "tint-left": "tint-left",
    "toe-starved": "starved",
    "damp-rod": "damp-rod",
}


def mean_a(plan: Plan) -> float:
    return plan.slopes.mean_a


def pool_share(plan: Plan, first: Plan, world: World) -> float:
    """Return the pool relative to the correct one.

    Wells 1952: the need is 0.2 + v d / 4a.
    """
    a, right = first.section.heat.a, first.travel.pool_width_mm
    speed = plan.travel.speed_mm_s * world.travel_speed
    # Another pulse needs another mean, which its plan has.
    same = plan.pulse.school == first.pulse.school
    power = (mean_a(plan) / mean_a(first) if same else 1.0) * world.turned * world.dial / world.need
    asked = power * (0.2 + first.travel.speed_mm_s * right / (4 * a))
    return max(0.05, (asked - 0.2) * 4 * a / speed / right)


def _bore_mm(cup: float) -> float:
    return cup * 25.4 / 16


def get_cup(plan: Plan, world: World) -> int:
    return max(4, plan.torch.cup - world.smaller_cups)


def _jet(plan: Plan, world: World) -> tuple[float, float]:
    """Return the Reynolds number relative to the turbulent limit, and the speed m/s.

    Argon at 20 °C: 1.66 kg/m3, 2.23e-5 Pa s, from tables.
    """
    bore = _bore_mm(get_cup(plan, world)) / 1000
    flow = plan.gas.flow_l_min * world.flow / 60000
    speed = flow / (math.pi / 4 * bore**2)
    return 1.66 * speed * bore / 2.23e-5 / TEARS[plan.torch.front_end], speed


def _edge_c(plan: Plan, world: World, pool: float, cover: float) -> float:
    """Return the peak temperature at the edge of the shielding, °C.

    Adams 1958, thin plate.
    """
    heat = plan.section.heat
    speed = plan.travel.speed_mm_s * world.travel_speed
    watts = 0.6 * plan.heat.arc_voltage_v * world.arc * mean_a(plan) * world.turned * world.dial
    half = pool * plan.travel.pool_width_mm / 2
    away = max(0.0, cover / 2 - half)
    per_k = math.sqrt(2 * math.pi * math.e) * heat.rho_c * plan.section.h_mm * speed * away / watts
    rise = 1 / (per_k + 1 / (heat.liquidus_c - 20))
    if not plan.back.barred:
        return 20 + rise
    # A bar cools the sheet one decay length inside its edge.
    decay = math.sqrt(heat.k * plan.section.h_mm / plan.back.contact_w_mm2k)
    return 20 + rise * _left_by_walls(half + away, plan.back.bar_from_seam_mm + decay)


def _left_by_walls(at_mm: float, wall_mm: float) -> float:
    """Return the share of the peak of a line of heat that cold walls leave: mirrors over time."""
    if at_mm >= wall_mm:
        return 0.0
    warmest = 0.0
    for step in range(1, 60):
        spread = 2 * at_mm**2 * step / 55
        mirrors = sum(
            (-1) ** n * math.exp(-((at_mm - 2 * n * wall_mm) ** 2) / spread)
            for n in (-2, -1, 0, 1, 2)
        )
        warmest = max(warmest, mirrors / math.sqrt(spread))
    return warmest * at_mm * math.sqrt(2 * math.e)


def get_tint(degrees: float) -> str:
    """Return the colour of a bare face with a peak temperature."""
    return next((name for minimum, name in TINTS if degrees < minimum), "grey")


def _chance(value: float, at: float, width: float) -> float:
    return 1 / (1 + math.exp(-(value - at) / width))


def weld(plan: Plan, first: Plan, world: World, rng: Random) -> dict[str, Any]:
    """Return the result.

    Flaws, both faces, surface, positions, possible answers of an inspector, and the "true" figures.
    """

    def happens(chance: float) -> bool:
        return rng.random() < chance

    pool = pool_share(plan, first, world)
    tears, speed = _jet(plan, world)
    faults: set[str] = set()
    where: dict[str, Any] = {}
    told = {sign: key in world.usual for key, sign in ASKED_BY.items()} | {
        "draught": world.draught > 0,
        "dirty": world.dirt,
        "iron-tool": world.iron,
        "rod-side": world.swings,
        "arc-on-thin": world.on_thin,
        "half-sugar": False,
    }
    surface = "even"
    if happens(_chance(-pool, -0.83, 0.03)):
        faults.add("cold")
        surface = "proud"
        if happens(0.3):
            faults.add("root-unfused")
    if happens(_chance(pool, 1.22, 0.04)):
        faults.add("too-hot")
        surface = "sunk" if happens(0.6) else "even"
        if happens(0.3):
            faults.add("root-sagged")
    _gas_faults(plan, world, faults, happens, tears, speed)
    cover = GOOD_COVER[plan.torch.front_end] * _bore_mm(get_cup(plan, world))
    cover *= max(0.3, 1 - 0.5 * max(0.0, tears - 1) - 0.05 * world.reach_mm - 0.5 * world.draught)
    if speed < 0.45:
        cover *= max(0.3, speed / 0.45)
    front = get_tint(_edge_c(plan, world, pool, cover) - MOMENT_C)
    if front == "grey":
        faults.add("grey")
        where["grey"] = [0.0, 1.0]
    glow, held = (
        plan.heat.glow_after_stop_s * max(0.6, pool),
        min(plan.gas.postflow_s * world.post, plan.gas.postflow_s * world.held),
    )
    if held < glow and "grey" not in faults and happens(_chance(glow - held, 0.5, 0.4)):
        faults.add("grey")
        where["grey"] = "stops" if happens(0.3) else [0.85, 1.0]
        if happens(0.5):
            faults.add("rod-grey")
    if "tint-left" in world.usual and front in ("silver", "straw"):
        # Tint that was left was there.
        front = rng.choice(("brown", "purple", "blue"))
    back, half = _behind(plan, world, pool, happens)
    if world.early or world.closed:
        back = "sugar"
        where["back"] = [0.0, 0.2] if world.early else [0.85, 1.0]
    elif back == "sugar" and not half:
        where["back"] = [0.0, 1.0]
    if world.pressure and happens(0.95):
        faults.add("root-sucked-back")
    told["vent-small"] = world.pressure and world.early is False and happens(0.6)
    told["sugar-at-start"], told["sugar-at-end"] = world.early, world.closed
    for slip in sorted(world.usual):
        for flaw, chance in SHOWS[slip].items():
            if happens(chance):
                faults.add("grey" if flaw == "grey-all" else flaw)
                if flaw == "grey-all":
                    front, where["grey"] = "grey", [0.0, 1.0]
    told["half-sugar"] = half
    _fit_faults(plan, world, pool, faults, happens)
    add_technique_flaws(plan, first, world, faults, happens)
    if "uneven" in faults or "wobble" in faults:
        surface = "wide" if happens(0.3) else surface
    coupon = {}
    if world.heavy > 1.3 and happens(0.9):
        coupon["bend"] = "toe"
    if world.arc > 1.3 and happens(0.7):
        surface = "wide"
    return {
        "faults": faults,
        "front": front,
        "back": back,
        "look": surface,
        "where": where,
        "told": told,
        "coupon": coupon,
        "pool": pool,
        "speed": speed,
        "held": held,
    }


def _gas_faults(
    plan: Plan, world: World, faults: set[str], happens: Any, tears: float, speed: float
) -> None:
    if happens(_chance(tears, 1.06, 0.04)):
        faults.add("wobble")
        if happens(0.3):
            faults.add("pores")
    if world.draught and happens(0.6):
        faults.add("pores")
    if not world.dammed:
        faults |= {key for key in ("frosty", "pores") if happens(0.8)}
    if world.dirt and happens(0.9):
        faults.add("pores")


def _behind(plan: Plan, world: World, pool: float, happens: Any) -> tuple[str, bool]:
    if plan.section.stainless_sides == 0:
        return "not-seen", False
    if world.bare or world.half:
        return "sugar", world.half
    if plan.back.purged:
        ppm = world.ppm * (plan.back.purge.target_ppm if plan.back.purge else 100)
        for most, colour in ((100, "silver"), (300, "straw"), (700, "brown"), (1200, "blue")):
            if ppm <= most:
                return colour, False
        return "sugar", False
    return ("straw" if pool < 1.25 or happens(0.4) else "brown"), False


def _fit_faults(plan: Plan, world: World, pool: float, faults: set[str], happens: Any) -> None:
    most = plan.fit_up.max_gap_mm or 0.1
    if happens(_chance(world.gap, 1.25, 0.08)) or (pool > 1.5 and happens(0.4)):
        faults.add("hole")
    if world.gap > 1.25 and plan.filler.rod and happens(0.3):
        faults.add("keyhole")
    if world.tacks < 0.8 and happens(0.95):
        faults.add("crack-tack" if happens(0.4) else "tacks-cracked")
    if world.on_thin:
        if happens(0.95):
            faults.add("edge-lost")
        if happens(0.25):
            faults.add("hole")
    if world.pulls and happens(0.97):
        faults.add("bowed")
    assert most > 0


def add_technique_flaws(
    plan: Plan, first: Plan, world: World, faults: set[str], happens: Any
) -> None:
    cracks = any(m.has("heat_resisting") for m in plan.metals)
    if world.taper < 0.6 and happens(0.97 if cracks else 0.85):
        faults.add("crater-crack")
    if world.late_s > 0.5 and happens(0.9):
        faults.add("restart")
    lacks = world.root_chill > 0 and mean_a(plan) / mean_a(first) * world.turned < 1.04
    if (world.before_pool or lacks) and happens(0.95):
        faults.add("keyhole")
    if world.swings and happens(0.92):
        faults.add("uneven")
    if (world.iron or world.steel_rod) and happens(0.9):
        faults.add("rust")
    if world.touched:
        faults.add("touched")
        if happens(0.3):
            faults.add("uneven")
    if world.arc > 1.3:
        faults |= {key for key in ("undercut",) if happens(0.85)}
    if world.heavy > 1.3:
        faults |= {"reinforcement-high"} if happens(0.6) else set()
        faults |= {"undercut"} if happens(0.2) else set()


def slips_for(plan: Plan, rng: Random) -> Mapping[str, World]:
    """Return the errors that can happen to a plan, by their causes."""
    off = rng.uniform(0.13, 0.3)
    heat = ("turned", "dial", "need", "travel_speed")
    how = rng.choice(heat)
    low = {
        "turned": 1 - off,
        "dial": 1 - off,
        "need": 1 / (1 - off),
        "travel_speed": 1 + 1.2 * off,
    }[how]
    over = {"turned": 1 + off, "dial": 1 + off, "need": 1 / (1 + off), "travel_speed": 1 - off}[how]
    tear = rng.uniform(1.12, 1.5) / max(0.2, _jet(plan, World())[0])
    found = {
        "heat-low": replace(World(), **{how: low}),
        "heat-high": replace(World(), **{how: over}),
        "left-early": replace(World(), **{rng.choice(("held", "post")): rng.uniform(0.1, 0.6)}),
        "cover-small": rng.choice(
            (World(smaller_cups=rng.choice((2, 3, 4))), World(reach_mm=rng.uniform(5, 9)))
        ),
        "gas-high": World(flow=tear),
        "gas-low": rng.choice(
            (World(draught=rng.uniform(0.6, 1.4)), World(flow=rng.uniform(0.25, 0.5)))
        ),
        "gap": World(gap=rng.uniform(1.3, 2.2)),
        "tacks-few": World(tacks=rng.uniform(0.4, 0.75)),
        "taper-short": World(taper=rng.uniform(0.05, 0.5)),
        "restart-late": World(late_s=rng.uniform(0.8, 2.5)),
        "hand-uneven": World(swings=True),
        "iron": World(iron=True),
        "touched": World(touched=True),
        "dirty": World(dirt=True),
        "arc-long": World(arc=rng.uniform(1.35, 1.7)),
    }
    kind = catalogue.load_joint_kinds()[str(plan.joint["joint"])]
    found |= {key: World(usual=frozenset((key,))) for key in _list_usual(plan)}
    if plan.filler.rod:
        found["root-cold"] = rng.choice((World(before_pool=True), World(root_chill=0.06)))
        found["bead-heavy"] = World(heavy=rng.uniform(1.4, 1.8))
        if plan.section.stainless_sides == 2:
            found["rod-wrong"] = World(steel_rod=True)
    if kind.has("splits_gas"):
        found["edge-splits"] = World(dammed=False)
    if plan.section.thick_mm > 1.2 * plan.section.thin_mm or kind.has("along_edge"):
        found["arc-on-thin"] = World(on_thin=True)
    if plan.back.purged:
        found["purge-thin"] = World(ppm=rng.uniform(15, 40))
        found["purge-early"] = World(ppm=rng.uniform(15, 40), early=True)
        found["purge-closed"] = World(closed=True)
        found["purge-pressure"] = World(pressure=True)
    elif plan.back.barred:
        found["back-bare"] = World(half=True)
    if not plan.back.barred:
        found["warp"] = World(pulls=True)
    return found


def _list_usual(plan: Plan) -> list[str]:
    """Return the slips of `SHOWS` that can happen to a plan."""
    metals = [metal for metal in plan.metals if metal is not None]
    sometimes = {
        "magnetised": any(not m.stainless or m.has("ferritic") for m in metals),
        "hard-zone": any(m.has("hardens") for m in metals),
        "rusts-by-nature": any(m.has("rusts_wet") for m in metals),
        "toe-starved": plan.filler.rod is not None,
        "damp-rod": plan.filler.rod is not None,
        "tint-left": any(m.stainless and not m.has("rusts_wet") for m in metals),
    }
    return [key for key in SHOWS if sometimes.get(key, True)]
