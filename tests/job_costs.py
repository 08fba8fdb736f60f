"""The costs of a sequence from the plan files alone, and its enumeration.

No calculation of the product is used.
"""

from __future__ import annotations

import itertools
import random
from typing import Any

from tests.jobs import generated
from wisearc.core.jobs.problem import Problem

ITEMS = ("arc_s", "dial_s", "torch_s", "clamp_s", "wait_s", "balance_s", "tack_s", "check_s")


def describe_setup(seam: dict[str, Any], plan: dict[str, Any]) -> dict[str, Any]:
    """Return dial, torch and clamping of a seam, from the files."""
    cover = plan["back"]["cover"]
    behind = "bars" if cover.endswith("-bar") else "purge" if cover == "purge" else "open"
    pulse = tuple(plan["pulse"][key] for key in ("rate_pps", "on_pct", "background_pct"))
    return {
        "dial_s": (
            round(plan["current"]["dial_a"]),
            *pulse,
            round(plan["gas"]["flow_l_min"] / 0.5),
            plan["gas"]["postflow_s"],
        ),
        "torch_s": (
            plan["tungsten"]["diameter_mm"],
            plan["tungsten"]["type"],
            plan["torch"]["front_end"],
            plan["torch"]["cup"],
        ),
        "clamp_s": (seam.get("face", "top"), behind),
        # Without gas: current and pulse.
        "arc": (round(plan["current"]["dial_a"]), *pulse),
        "tack": (round(plan["tacks"]["dial_a"]), None, None, None),
        "face": seam.get("face", "top"),
    }


PRICES = {"dial_s": 60, "torch_s": 180, "clamp_s": 240}


def calculate_cost_s(
    data: dict[str, Any],
    plans: dict[str, dict[str, Any]],
    order: list[str],
    tacks: list[str] | None = None,
) -> dict[str, float]:
    """Return the cost of an order by the definition of the format.

    A job file, the plan files of its seams, the order of the welds, and that of the tacks.
    """
    seams = {s["key"]: s for s in data["seams"]}
    setups = {key: describe_setup(seams[key], plans[key]) for key in seams}
    found, now = dict.fromkeys(ITEMS, 0.0), 0.0
    worked: dict[str, float] = {}
    filled: set[str] = set()
    ends: list[tuple[str, float]] = []

    def pay(name: str) -> None:
        nonlocal now
        found[name] += PRICES[name]
        now += PRICES[name]

    def wait_until(at: float) -> None:
        nonlocal now
        found["wait_s"] += max(0.0, at - now)
        now = max(now, at)

    def fill(key: str) -> None:
        purge = plans[key]["back"]["purge"]
        if plans[key]["back"]["cover"] == "purge" and key not in filled:
            wait_until(max(worked.get(p, 0.0) for p in seams[key]["joins"]) + 60 * purge["minutes"])
        filled.add(key)

    before: dict[str, Any] | None = None
    for i, key in enumerate(tacks or []):
        setup = setups[key]
        if before is not None:
            if before["face"] != setup["face"]:
                pay("clamp_s")
            if before["tack"] != setup["tack"]:
                pay("dial_s")
        fill(key)
        count, each = plans[key]["tacks"]["count"], plans[key]["tacks"]["time_s"]
        now += count * (each + 5)
        found["tack_s"] += count * (each + 5)
        worked |= dict.fromkeys(seams[key]["joins"], now)
        following = (tacks or [])[i + 1 : i + 2]
        if not following or setups[following[0]]["face"] != setup["face"]:
            now += 120
            found["check_s"] += 120
        before = {**setup, "dial_s": None, "arc": setup["tack"]}
    left = {key: seams[key].get("pieces", 1) for key in seams}
    for key in order:
        setup, plan = setups[key], plans[key]
        if before is not None:
            for name in ("torch_s", "clamp_s"):
                if before[name] != setup[name]:
                    pay(name)
            # After the tacks, current and pulse count; between welds the gas too.
            name = "arc" if before["dial_s"] is None else "dial_s"
            if before[name] != setup[name]:
                pay("dial_s")
        cooled = [
            end + plans[other]["heat"]["interpass_wait_s"]
            for other, end in ends
            if set(seams[other]["joins"]) & set(seams[key]["joins"])
        ]
        purge = plan["back"]["purge"]
        free = max(cooled, default=0.0)
        if plan["back"]["cover"] == "purge" and key not in filled:
            last = max(worked.get(p, 0.0) for p in seams[key]["joins"])
            free = max(free, last + 60 * purge["minutes"])
        filled.add(key)
        wait_until(free)
        arc = plan["travel"]["arc_time_s"] / seams[key].get("pieces", 1)
        now += arc
        found["arc_s"] += arc
        ends.append((key, now))
        worked |= dict.fromkeys(seams[key]["joins"], now)
        left[key] -= 1
        sides = [seams[k].get("side", "middle") for k, count in left.items() if not count]
        found["balance_s"] += 30 * max(0, abs(sides.count("left") - sides.count("right")) - 1)
        before = setup
    return found


def problem(n: int, seed: int, **more: Any) -> Problem:
    """Return a generated problem."""
    figures = {
        k: tuple(tuple(x) if isinstance(x, list) else x for x in v) if isinstance(v, list) else v
        for k, v in generated(n, seed).items()
    }
    return Problem(**{"keys": tuple(f"s{j}" for j in range(n)), **figures, **more})


def with_rules(n: int, seed: int) -> Problem:
    """Return a generated problem with purges, a set-up before the first step, and sections.

    One in three has groups instead, as tacks have.
    """
    rng = random.Random(f"rules/{n}/{seed}")
    more: dict[str, Any] = {
        "fill_s": tuple(rng.choice((0.0, 0.0, 60.0, 240.0)) for _ in range(n)),
        "start_s": tuple(rng.choice((0.0, 60.0, 300.0)) for _ in range(n)),
    }
    if seed % 3 == 0:
        groups = tuple(rng.randrange(max(1, n // 2)) for _ in range(n))
        return problem(n, seed, before=(), groups=groups, **more)
    keys = [f"s{rng.randrange(max(1, 2 * n // 3))}" for _ in range(n)]
    pairs = set(generated(n, seed)["before"]) if len(set(keys)) == n else set()
    for key in set(keys):
        own = [j for j in range(n) if keys[j] == key]
        pairs |= set(itertools.pairwise(own))
    return problem(n, seed, keys=tuple(keys), before=tuple(sorted(pairs)), **more)


def may_follow(p: Problem, done: list[int], j: int) -> bool:
    """Return whether a step may come next: groups together, sections apart where possible."""
    if not done:
        return True
    last, left = done[-1], [k for k in range(p.n) if k not in done]
    if p.groups and p.groups[j] != p.groups[last]:
        return all(p.groups[k] != p.groups[last] for k in left)
    if p.keys[j] != p.keys[last]:
        return True
    ready = [k for k in left if all(a in done for a, b in p.before if b == k)]
    return all(p.keys[k] == p.keys[last] for k in ready)


def cheapest(p: Problem) -> float:
    """Return the minimum of all orders, each calculated here."""
    best = float("inf")
    fills, starts = p.fill_s or (0.0,) * p.n, p.start_s or (0.0,) * p.n
    for order in itertools.permutations(range(p.n)):
        place = {j: i for i, j in enumerate(order)}
        if any(place[a] > place[b] for a, b in p.before):
            continue
        now, lean, extra, ends = 0.0, 0, 0.0, {}
        worked: dict[int, float] = {}
        for i, j in enumerate(order):
            if not may_follow(p, list(order[:i]), j):
                break
            now += (
                sum(
                    c
                    for kind, c in zip(p.classes, p.change_s, strict=True)
                    if kind[order[i - 1]] != kind[j]
                )
                if i
                else starts[j]
            )
            cooled = [ends[k] + p.cool_s[k] for k in ends if set(p.parts[k]) & set(p.parts[j])]
            filled = max(worked.get(part, 0.0) for part in p.parts[j]) + fills[j]
            now = max([now, filled, *cooled]) + p.arc_s[j]
            ends[j] = now
            worked |= dict.fromkeys(p.parts[j], now)
            lean += p.side[j]
            extra += p.balance_s * max(0, abs(lean) - 1)
            if now + extra >= best:
                break
        else:
            best = now + extra
    return best
