"""Materials of a job."""

import unittest
from typing import ClassVar

from tests.jobs import STAY, job, plan_job, seam
from wisearc.core.jobs.materials import estimate_materials, sum_items
from wisearc.core.reasons import store_text
from wisearc.core.shop.data import make_shop


class Takes(unittest.TestCase):
    SHOP: ClassVar = {
        "rods": [{"rod": "ER316L", "diameter_mm": 1.0, "count": 1}],
        "cylinders": [
            {"name": "small", "water_l": 1, "bar": 20},
            {"name": "large", "water_l": 10, "bar": 30},
        ],
        "bars": [{"metal": "copper", "thickness_mm": 6, "grooved": True, "count": 1}],
        "tungstens": [{"type": "lanthanated-2", "diameter_mm": 1.6, "count": 3, "price": 4}],
    }

    def test_argon_rods_tungstens_and_bars(self) -> None:
        shop = make_shop(self.SHOP)
        made = plan_job({**job(seam("c1"), seam("t1", STAY, ("c", "d"))), "quantity": 4}, shop)
        take, tasks = made.take, made.work.tasks
        total = 4 * sum(t.plan.gas.argon_l for t in tasks.values())
        self.assertAlmostEqual(sum(take.argon_l.values()), total)
        self.assertAlmostEqual(sum(c.used_l for c in take.cylinders) + take.lacking_l, total)
        # the smaller is used up first, in the seam where what went before and this are more than it
        # holds
        first, drawn = take.cylinders[0], 0.0
        self.assertEqual(first.name, "small")
        for step in made.all.steps:
            drawn += tasks[step.key].plan.gas.argon_l
            if drawn > first.holds_l:
                self.assertEqual((first.ends_at, first.piece), (step.key, step.piece))
                break
        rods = next(i for i in take.items if i.list == "rods")
        fed = 4 * tasks["t1"].plan.filler.length_mm
        self.assertEqual(rods.need, -(-fed // 1000))
        bars = next(i for i in take.items if i.list == "bars")
        self.assertEqual((bars.have, bars.short), (1, bars.need - 1))
        tungsten = next(i for i in take.items if i.list == "tungstens" and i.key.endswith("1.6"))
        self.assertEqual((tungsten.need, tungsten.money, take.money), (1, 0, 0))
        none = make_shop(
            {
                **self.SHOP,
                "tungstens": [
                    {"type": "lanthanated-2", "diameter_mm": 1.6, "count": 0, "price": 4}
                ],
                "rods": [{"rod": "ER316L", "diameter_mm": 1.0, "count": 9, "price": 2}],
            }
        )
        cost = {i.list: i.money for i in estimate_materials(tasks, made.all.steps, none).items}
        self.assertEqual((cost["tungstens"], cost["rods"]), (4, 2 * rods.need))
        two_jobs = sum_items([take, take])
        self.assertEqual(next(i for i in two_jobs if i.list == "tungstens").need, 1)
        self.assertEqual(next(i for i in two_jobs if i.list == "rods").need, 2 * rods.need)
        self.assertEqual(next(i for i in two_jobs if i.list == "bars").need, bars.need)

    def test_by_gas_size_and_length_alone(self) -> None:
        """Only the same gas, class, size and type counts as stock.

        A cylinder below the minimum regulator pressure gives nothing.
        """
        shop = {
            "rods": [
                {"rod": "ER316L", "diameter_mm": 1.0, "length_mm": 500, "count": 9},
                {"rod": "ER316L", "diameter_mm": 1.6, "count": 5},
                {"rod": "ER308L", "diameter_mm": 1.0, "count": 7},
            ],
            "cylinders": [
                {"water_l": 50, "bar": 4.2},
                {"water_l": 50, "bar": 4.0},
                {"name": "n2", "gas": "argon-nitrogen", "water_l": 50, "bar": 200},
            ],
            "tungstens": [
                {"type": "lanthanated-2", "diameter_mm": 2.4, "count": 3},
                {"type": "ceriated-2", "diameter_mm": 1.6, "count": 2},
                {"type": "lanthanated-2", "diameter_mm": 1.6, "count": 1},
            ],
        }
        made = plan_job({**job(seam("t1", STAY)), "quantity": 30}, make_shop(shop))
        items = {i.list: i for i in made.take.items}
        self.assertEqual(
            (items["rods"].have, items["rods"].need),
            (9, -(-30 * made.work.tasks["t1"].plan.filler.length_mm // 500)),
        )
        self.assertEqual(items["tungstens"].have, 1)
        self.assertLess(items["cylinders"].have, 15)
        self.assertGreater(items["cylinders"].have, 5)
        # of the two nearly empty ones that at 4 bar is not drawn from
        self.assertEqual(len(made.take.cylinders), 1)
        self.assertAlmostEqual(made.take.share, sum(made.take.argon_l.values()) / 10446, 4)

    def test_one_after_the_other_as_each_ends(self) -> None:
        """Three cylinders that each end within the job.

        Each ends at the seam at which the total exceeds the contents up to it.
        """
        cylinders = [{"name": str(i), "water_l": 1, "bar": 9 + i} for i in range(3)]
        made = plan_job({**job(seam("c1")), "quantity": 3}, make_shop({"cylinders": cylinders}))
        each, held, at = made.work.tasks["c1"].plan.gas.argon_l, 0.0, []
        for use in made.take.cylinders:
            held += use.holds_l
            at.append((use.name, use.piece))
            self.assertEqual(use.piece, int(held // each) + 1)
        self.assertEqual([name for name, _ in at], ["0", "1", "2"])
        self.assertAlmostEqual(made.take.lacking_l, 3 * each - held)

    def test_shortage_is_shown_in_both_unit_systems(self) -> None:
        made = plan_job(
            {**job(seam("t", STAY)), "quantity": 40},
            make_shop({"rods": [{"rod": "ER316L", "diameter_mm": 1.0, "count": 2}]}),
        )
        short = next(c for c in made.cautions if c.code == "job-short")
        self.assertIn("1 mm", store_text(short.sentence).mm)
        self.assertIn("0.040 in", store_text(short.sentence).inch)

    def test_nothing_entered_is_nothing_to_buy(self) -> None:
        self.assertEqual(plan_job(job(seam("c1"))).take.buy, ())


if __name__ == "__main__":
    unittest.main()
