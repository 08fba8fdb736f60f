"""Cautions of a job."""

import unittest

from tests.core.plan.cautions.test_cautions import in_source
from tests.jobs import CORNER, STAY, job, plan_job, seam
from wisearc.core.shop.data import make_shop
from wisearc.core.shop.shop import ASSUMED

ZINC = {
    **CORNER,
    "members": [
        {"metal": "mild-steel", "thickness": "1.2 mm", "coating": "zinc"},
        {"metal": "mild-steel", "thickness": "1.2 mm"},
    ],
}

FULL = {
    "cylinders": [{"name": "big", "water_l": 50, "bar": 200}],
    "rods": [{"rod": "ER316L", "diameter_mm": 1.0, "count": 50}],
}

WALLS = ("top", "bottom", "left", "right", "front", "rear")
EDGES = [
    (a, b)
    for i, a in enumerate(WALLS)
    for b in WALLS[i + 1 :]
    if {a, b} not in ({"top", "bottom"}, {"left", "right"}, {"front", "rear"})
]
BOX = job(*(seam(f"e{i}", joins=pair) for i, pair in enumerate(EDGES)))
OPEN_BOX = job(
    *(seam(f"e{i}", joins=pair) for i, pair in enumerate(EDGES) if not {"top", "rear"} & set(pair))
)

TINY = {"cylinders": [{"name": "tiny", "water_l": 1, "bar": 10}]}

# code, level, a job that brings it, one just short of it, the shop of each
TABLE = (
    (
        "order-cannot-be",
        "stop",
        {**job(seam("a"), seam("b", after=["a"])), "order": ["b", "a"]},
        {**job(seam("a"), seam("b", after=["a"])), "order": ["a", "b"]},
        {},
        {},
    ),
    ("seam-stopped", "stop", job(seam("a", ZINC)), job(seam("a")), {}, {}),
    (
        "part-not-joined",
        "note",
        {**job(seam("a")), "parts": ["a", "b", "c"]},
        job(seam("a")),
        {},
        {},
    ),
    ("will-bow", "caution", job(seam("a", free_mm=150)), job(seam("a", free_mm=30)), {}, {}),
    (
        "pulls-one-side",
        "caution",
        job(
            *(seam(f"s{i}", side="left" if i < 7 else "right", joins=(f"p{i}",)) for i in range(11))
        ),
        job(
            *(seam(f"s{i}", side="left" if i < 5 else "right", joins=(f"p{i}",)) for i in range(8))
        ),
        {},
        {},
    ),
    (
        "tacks-hide",
        "caution",
        {**job(seam("a"), seam("b", hides=["a"])), "tack_up": True},
        job(seam("a"), seam("b", hides=["a"])),
        {},
        {},
    ),
    # six walls of a box, each with four edges, on bars; without the lid it stays open
    ("closed-box", "caution", BOX, OPEN_BOX, {}, {}),
    ("bars-trapped", "caution", BOX, OPEN_BOX, {}, {}),
    ("job-argon-short", "caution", job(seam("a")), job(seam("a")), TINY, FULL),
    (
        "cylinder-ends",
        "note",
        job(seam("a")),
        job(seam("a")),
        {"cylinders": [*TINY["cylinders"], *FULL["cylinders"]]},
        FULL,
    ),
    (
        "job-short",
        "caution",
        {**job(seam("t", STAY)), "quantity": 40},
        job(seam("t", STAY)),
        {"rods": [{"rod": "ER316L", "diameter_mm": 1.0, "count": 2}]},
        FULL,
    ),
)


class Cautions(unittest.TestCase):
    def test_each_just_outside_and_just_inside(self) -> None:
        for code, level, with_it, without, shop, other in TABLE:
            found = {
                (c.code, c.level)
                for c in plan_job(with_it, make_shop(shop) if shop else ASSUMED).cautions
            }
            self.assertIn((code, level), found, code)
            self.assertNotIn(
                code,
                {
                    c.code
                    for c in plan_job(without, make_shop(other) if other else ASSUMED).cautions
                },
                code,
            )

    def test_every_code_of_the_source_stands_in_the_table(self) -> None:
        self.assertEqual({(code, level) for code, level, *_ in TABLE}, in_source("jobs"))

    def test_serious_items_are_listed_first(self) -> None:
        made = plan_job({**job(seam("a", ZINC, free_mm=150)), "parts": ["a", "b", "z"]})
        levels = [c.level for c in made.cautions]
        self.assertEqual(levels, sorted(levels, key=("stop", "caution", "note").index))


if __name__ == "__main__":
    unittest.main()
