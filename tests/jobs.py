"""Generated jobs: as figures for a search, and as files."""

from __future__ import annotations

import random
from typing import Any

from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import JobPlan, make_job_plan
from wisearc.core.shop.shop import ASSUMED, Shop
from wisearc.services.jobs.job_plans import plan_seams


def generated(n: int, seed: int) -> dict[str, Any]:
    """Return a job of n seams as figures.

    Arc and cooling times s, classes of settings, torch and clamping, parts, sides, precedence. All
    invented.
    """
    rng = random.Random(f"{n}/{seed}")
    parts = max(2, n // 3)
    kinds = [rng.randint(1, min(6, n)), rng.randint(1, 3), rng.randint(1, 4)]
    place = list(range(n))
    rng.shuffle(place)
    before = set()
    for _ in range(n // 4):
        a, b = sorted(rng.sample(range(n), 2)) if n > 1 else (0, 0)
        if a != b:
            before.add((place[a], place[b]))
    waits = (10, 15, 60, 100, 125)
    return {
        "arc_s": [round(rng.uniform(20, 200), 1) for _ in range(n)],
        "cool_s": [float(rng.choice(waits)) for _ in range(n)],
        "classes": [[rng.randrange(k) for _ in range(n)] for k in kinds],
        "change_s": [60.0, 180.0, 240.0],
        "balance_s": 30.0,
        "parts": [
            sorted(rng.sample(range(parts), min(parts, rng.choice((1, 2, 2, 2))))) for _ in range(n)
        ],
        "side": [rng.choice((-1, 0, 1)) for _ in range(n)],
        "before": sorted(before),
        "seen": [rng.random() < 0.5 for _ in range(n)],
    }


SHEET = {"metal": "316L", "thickness": "1.2 mm"}
CORNER = {"joint": "outside-corner", "members": [SHEET, SHEET], "length_mm": 180}
RIM = {"joint": "edge", "members": [SHEET, SHEET], "length_mm": 120}
STAY = {
    "joint": "tube-butt",
    "length": "all-round",
    "members": [
        {"metal": "316L", "form": "tube", "thickness": "1.2 mm", "diameter": "25 mm"},
        {"metal": "316L", "form": "tube", "thickness": "1.2 mm", "diameter": "25 mm"},
    ],
}
FOOT = {
    "joint": "lap",
    "members": [{"metal": "304L", "thickness": "1.5 mm"}, {"metal": "304L", "thickness": "1.5 mm"}],
    "length_mm": 60,
}
JOINTS = (CORNER, RIM, STAY, FOOT)


def seam(
    key: str, joint: dict[str, Any] | None = None, joins: tuple[str, ...] = ("a", "b"), **more: Any
) -> dict[str, Any]:
    """Return a seam as plain data."""
    return {"key": key, "joint": joint or CORNER, "joins": list(joins), **more}


def job(*seams: dict[str, Any], **more: Any) -> dict[str, Any]:
    """Return a job as plain data, with the joined parts."""
    parts = list(dict.fromkeys(part for one in seams for part in one["joins"]))
    return {"title": "Made up", "parts": parts, "seams": list(seams), **more}


FOUR_SEAMS = job(
    seam("c1", side="left"),
    seam("c2", side="right"),
    seam("r1", RIM, after=["c1"]),
    seam("t1", STAY, ("c", "d")),
)


def generated_job(n: int, seed: int, **more: Any) -> dict[str, Any]:
    """Return a job of n seams as plain data, of a few joints.

    All invented.
    """
    rng, figures = random.Random(f"job/{n}/{seed}"), generated(n, seed)
    clampings = [rng.choice(("top", "bottom", "left")) for _ in range(n)]
    rows = []
    for j in range(n):
        after = [f"s{a}" for a, b in figures["before"] if b == j]
        split = rng.randint(0, len(after))
        rows.append(
            seam(
                f"s{j}",
                rng.choice(JOINTS),
                tuple(f"p{p}" for p in figures["parts"][j]),
                after=after[:split],
                hides=after[split:],
                face=clampings[j],
                side=("middle", "left", "right")[figures["side"][j]],
                seen=figures["seen"][j],
            )
        )
    return job(*rows, **more)


def plan_job(data: dict[str, Any], shop: Shop = ASSUMED) -> JobPlan:
    """Plan a job with the best order."""
    made = make_job(data)
    return make_job_plan(made, plan_seams(made, shop), shop, lambda: True)
