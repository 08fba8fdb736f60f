"""A job: what is taken and refused, its order by hand, what it takes, how it warps."""

import unittest
from dataclasses import replace
from itertools import product
from typing import Any, ClassVar

from tests.core.plan.test_cautions import in_source
from tests.jobs import CORNER, FOOT, RIM, STAY, job, seam
from wisearc.core.errors import BadInput
from wisearc.core.jobs.cut_list import cut_text, hole_text, read_cuts, read_holes, totals
from wisearc.core.jobs.job import MOST_SEAMS
from wisearc.core.jobs.job_data import job_data, make_job
from wisearc.core.jobs.job_plan import (
    Best,
    JobPlan,
    best_order,
    by_hand,
    elsewhere,
    make_job_plan,
    plan_of_order,
    why_here,
    work_of,
)
from wisearc.core.jobs.materials import take_of, together
from wisearc.core.jobs.order import broken, timed
from wisearc.core.jobs.warp import BOW, FLAT, WATCH, levers, warp_of
from wisearc.core.reasons import said
from wisearc.core.shop.data import make_shop
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.jobs.job_plans import plans_of


def plan(data: dict[str, Any], shop: Any = ASSUMED) -> JobPlan:
    made = make_job(data)
    return make_job_plan(made, plans_of(made, shop), shop, lambda: True)


class Data(unittest.TestCase):
    def refused(self, data: dict[str, Any]) -> str:
        with self.assertRaises(BadInput) as caught:
            make_job(data)
        return str(caught.exception)

    def test_there_and_back(self) -> None:
        data = job(
            seam("c1", side="left", after=["c2"], free_mm=80.0),
            seam("c2", RIM, hides=["c3"], seen=False),
            seam("c3", procedure="P-0001 A", joint=None) | {"joint": None},
            quantity=3,
            first="c3",
            order=["c3", "c2", "c1"],
            about={
                "a": {
                    "note": "bent",
                    "cuts": [{"count": 2, "what": "sheet 1.2", "length_mm": 380, "width_mm": 120}],
                    "holes": [{"diameter_mm": 6.5, "x_mm": 12, "y_mm": -3}],
                    "at": [0, 0, 30, 20],
                }
            },
            times={"dial_s": 20},
            balance_s=0,
        )
        made = make_job(data)
        self.assertEqual(make_job(job_data(made)), made)
        self.assertEqual(
            (made.times.dial_s, made.times.torch_s, made.seams[0].after, made.seams[2].procedure),
            (20, 180, ("c2",), "P-0001 A"),
        )

    def test_circles_are_named_by_their_seams(self) -> None:
        said = self.refused(
            job(seam("a1", after=["a3"]), seam("a2", after=["a1"]), seam("a3", hides=["a2"]))
        )
        self.assertIn("a1 before a2 before a3 before a1", said)
        self.assertIn("hides itself", self.refused(job(seam("a1", hides=["a1"]))))
        self.assertIn("comes after itself", self.refused(job(seam("a1", after=["a1"]))))
        self.assertIn("pins", self.refused(job(seam("a1"), seam("a2", after=["a1"]), first="a2")))

    def test_a_thousand_are_told(self) -> None:
        said = self.refused(job(*(seam(f"s{i}") for i in range(1000))))
        self.assertIn("1000 seams", said)
        self.assertIn("sub-assembly", said)
        self.assertEqual(
            len(make_job(job(*(seam(f"s{i}") for i in range(MOST_SEAMS)))).seams), MOST_SEAMS
        )

    def test_as_long_as_each_text_may_be(self) -> None:
        def at(long: int) -> list[dict[str, Any]]:
            one = seam("c1")
            return [
                {**job(seam("k" * long)), "of": 24},
                {**job(seam("c1", joins=("a", "p" * long))), "of": 40},
                {**job({**one, "title": "t" * long}), "of": 120},
                {**job({**one, "face": "f" * long}), "of": 24},
                {**job(one), "about": {"a": {"note": "n" * long}}, "of": 400},
                {**job(one), "title": "t" * long, "of": 120},
            ]

        for long in (24, 25, 40, 41, 120, 121, 400, 401):
            for i, data in enumerate(at(long)):
                most = data.pop("of")
                with self.subTest(long=long, which=i):
                    if long <= most:
                        make_job(data)
                    else:
                        self.assertIn(str(most), self.refused(data))

    def test_place_within_the_drawing(self) -> None:
        for place, taken in (
            ([0, 100, 2, 100], True),
            ([-0.1, 0, 2, 2], False),
            ([0, 100.1, 2, 2], False),
            ([0, 0, 1.9, 2], False),
            ([0, 0, 2, 100.1], False),
            ([0, 0, 2], False),
        ):
            data = job(seam("c1"), about={"a": {"at": place}})
            with self.subTest(place=place):
                if taken:
                    self.assertEqual(make_job(data).about["a"].at, tuple(place))
                else:
                    self.assertIn("about", self.refused(data))

    def test_maximum_length(self) -> None:
        for mm, taken in ((20_000, True), (20_001, False)):
            cut = {"count": 1, "what": "tube", "length_mm": mm}
            data = job(seam("c1"), about={"a": {"cuts": [cut]}})
            with self.subTest(mm=mm):
                if taken:
                    make_job(data)
                else:
                    self.assertIn("20000", self.refused(data).replace(" ", "").replace(",", ""))

    def test_each_refusal_names_its_key(self) -> None:
        for change, words in (
            ({"key": ""}, "seams[0].key"),
            ({"key": "a b"}, "one word"),
            ({"key": "a,b"}, "comma"),
            ({"joins": []}, "seams[0].joins"),
            ({"joins": ["nowhere"]}, "nowhere"),
            ({"side": "up"}, "seams[0].side"),
            ({"joint": None}, "seams[0].joint"),
            ({"procedure": "P-0001"}, "give the one or the other"),
            ({"after": ["zz"]}, "seams[0].after"),
            ({"free_mm": 1}, "seams[0].free_mm"),
            ({"seen": "yes"}, "seams[0].seen"),
            ({"joint": {"joint": "tee"}}, "seams[0].joint.members"),
            ({"colour": 1}, "colour"),
            ({"face": 3}, "seams[0].face"),
        ):
            data = job(seam("c1"))
            data["seams"][0] |= change
            self.assertIn(words, self.refused(data), change)
        for change, words in (
            ({"quantity": 0}, "quantity"),
            ({"quantity": 1.5}, "whole"),
            ({"parts": ["a", "a"]}, "twice"),
            ({"parts": ["a", ""]}, "name"),
            ({"order": ["c1", "c1"]}, "order"),
            ({"first": "x"}, "first"),
            ({"times": {"dial_s": -1}}, "dial_s"),
            ({"balance_s": "much"}, "balance_s"),
            ({"about": {"z": {}}}, "about"),
            ({"about": {"a": {"at": [1, 2]}}}, "about.a.at"),
            ({"zz": 1}, "zz"),
            ({"seams": [seam("c1"), seam("c1")]}, "is the key of seams[0] too"),
        ):
            self.assertIn(
                words, self.refused({**job(seam("c1")), "parts": ["a", "b"], **change}), change
            )

    def test_cut_lists(self) -> None:
        cuts = read_cuts("2 x sheet 1.2, 380 x 120\ntube 25 × 1.2, 620 mm", "mm")
        self.assertEqual(
            [(c.count, c.what, c.length_mm, c.width_mm) for c in cuts],
            [(2, "sheet 1.2", 380, 120), (1, "tube 25 × 1.2", 620, None)],
        )
        self.assertEqual(read_cuts("\n".join(cut_text(c, "in") for c in cuts), "in")[1].count, 1)
        holes = read_holes("6.5 at 12, 20\n1/4 in @ -1 in, 2 in", "mm")
        self.assertEqual([(h.x_mm, h.y_mm) for h in holes], [(12, 20), (-25.4, 50.8)])
        self.assertEqual(read_holes(hole_text(holes[1], "mm"), "mm")[0].x_mm, -25.4)
        for read, text in (
            (read_cuts, "a sheet"),
            (read_cuts, "2 x sheet, wide"),
            (read_holes, "6.5 here"),
            (read_holes, "6.5 at 1"),
        ):
            with self.assertRaises(BadInput) as caught:
                read("\n" + text, "mm")
            self.assertIn("line 2", str(caught.exception))
        data = job(
            seam("c1"),
            quantity=3,
            about={
                "a": {"cuts": [{"count": 2, "what": "sheet", "length_mm": 100, "width_mm": 10}]},
                "b": {"cuts": [{"count": 1, "what": "sheet", "length_mm": 50, "width_mm": 10}]},
            },
        )
        total = totals(make_job(data))[0]
        self.assertEqual((total.count, total.length_mm, total.area_mm2), (9, 750, 7500))


class Order(unittest.TestCase):
    DATA = job(
        seam("c1", side="left"),
        seam("c2", side="right"),
        seam("r1", RIM, hides=["c2"], seen=False),
        seam("t1", STAY, ("c", "d"), face="bottom"),
    )

    def test_an_order_that_cannot_be(self) -> None:
        made = plan(self.DATA)
        self.assertEqual(broken(made.work, made.one.order), [])
        self.assertEqual(
            broken(made.work, ["c1", "r1", "c2", "t1"]), ["c2 is hidden by r1, so it comes first"]
        )
        self.assertEqual(
            broken(made.work, ["c1", "c1", "r1", "zz"]),
            [
                "c1 is welded twice",
                "zz is no seam of this job",
                "c2 is never welded",
                "t1 is never welded",
            ],
        )

    def test_why_here_is_the_cheapest_other_place(self) -> None:
        made = plan({**self.DATA, "quantity": 3})
        ways = (("one", 1, False), ("piece", 3, False), ("seam", 3, True))
        for key, (how, pieces, by_seam) in product(made.one.order, ways):
            why = why_here(made.work, made.one.order, key, how)
            costs = {}
            for to in range(4):
                way = elsewhere(made.work, made.one.order, key, to, how)
                if to != why.place and not way.broken:
                    now, then = (
                        timed(made.work, order, pieces, by_seam).items.cost_s
                        for order in (made.one.order, way.order)
                    )
                    costs[to] = then - now
            if why.next_best is None:
                self.assertFalse(costs)
            else:
                self.assertAlmostEqual(why.next_best.more_s, min(costs.values()))
                self.assertAlmostEqual(sum(why.next_best.items.values()), why.next_best.more_s, 0)
        self.assertIn(
            "c2 is hidden by r1, so it comes first", why_here(made.work, made.one.order, "c2").held
        )

    def test_what_is_proved_by_hand(self) -> None:
        """An order by hand is proved where it costs what the proved one does, and not where it
        costs more.
        """
        found = plan(self.DATA)
        dearer = next(
            order
            for order in (
                tuple(reversed(found.one.order)),
                (*found.one.order[1:], found.one.order[0]),
            )
            if timed(found.work, order).items.cost_s > found.one.items.cost_s
        )
        self.assertFalse(by_hand(found.work, dearer, found.best).proved)
        self.assertFalse(
            by_hand(found.work, found.one.order, replace(found.best, proved=False)).proved
        )
        self.assertAlmostEqual(
            by_hand(found.work, found.one.order, found.best).bound_s, found.best.bound_s
        )

    def test_pins_hold_a_seam(self) -> None:
        made = plan({**self.DATA, "first": "t1"})
        self.assertEqual(why_here(made.work, made.one.order, "t1").held, ("it is pinned first",))
        self.assertIsNone(why_here(made.work, made.one.order, "t1").next_best)
        self.assertNotIn("it is pinned first", why_here(made.work, made.one.order, "c1").held)

    def test_words_of_what_is_touched(self) -> None:
        """Only what differs is told, and all of it at the start."""
        made = plan(
            job(
                seam("a", STAY, ("a",)),
                seam("b", {**STAY, "pins": {"cup": 10}}, ("b",)),
                seam("c", {**STAY, "pins": {"cup": 10, "tungsten_type": "ceriated-2"}}, ("c",)),
                order=["a", "b", "c"],
            )
        )
        words = [{t.what: t.words.mm for t in step.touched} for step in made.one.steps]
        self.assertRegex(words[0]["torch"], r"^tungsten .* mm \w+, .*, cup no\. \d+$")
        self.assertEqual(words[1]["torch"], "cup no. 10")
        self.assertRegex(words[2]["torch"], r"^tungsten [\d.]+ mm grey$")
        self.assertNotIn("clamp", words[1])

    def test_words_of_a_dial(self) -> None:
        """The words of a dial list the changed figures only."""
        first = {**STAY, "pins": {"current_a": 60, "flow_l_min": 9.1, "postflow_s": 8}}
        for pins, words in (
            ({"current_a": 60}, ""),
            ({"current_a": 64}, r"\d+ A"),
            ({"flow_l_min": 9.2}, ""),
            ({"flow_l_min": 9.3}, "argon 9.5 L/min"),
            ({"flow_l_min": 8.7}, "argon 8.5 L/min"),
            ({"postflow_s": 9}, "9 s after"),
        ):
            second = {**first, "pins": {**first["pins"], **pins}}
            made = plan(job(seam("a", first), seam("b", second), order=["a", "b"]))
            touched = {t.what: t.words.mm for t in made.one.steps[1].touched}
            with self.subTest(pins=pins):
                self.assertRegex(touched.get("dial", ""), f"^{words}$")

    def test_by_hand_stays(self) -> None:
        found = plan(self.DATA)
        order = tuple(reversed(found.one.order))
        made = plan({**self.DATA, "order": list(order)})
        self.assertEqual((made.one.order, made.best.by_hand), (order, True))
        # one that breaks a rule is never proved, whatever it costs
        free = plan(job(seam("a", joins=("a",)), seam("b", joins=("b",))))
        tied = work_of(
            make_job(job(seam("a", joins=("a",), after=["b"]), seam("b", joins=("b",)))),
            {k: t.plan for k, t in free.work.tasks.items()},
        )
        self.assertTrue(by_hand(free.work, ("a", "b"), free.best).proved)
        self.assertFalse(by_hand(tied, ("a", "b"), best_order(tied, lambda: True)).proved)
        self.assertLessEqual(made.best.bound_s, made.one.items.cost_s)
        self.assertTrue(by_hand(found.work, found.one.order, found.best).proved)

    def test_pinned_and_unseen_first(self) -> None:
        self.assertEqual(plan({**self.DATA, "first": "c1"}).one.order[0], "c1")
        self.assertEqual(plan({**self.DATA, "last": "c1"}).one.order[-1], "c1")
        # of two that cost the same the one that is not seen comes first
        like = job(seam("x", joins=("a",)), seam("y", joins=("b",), seen=False))
        self.assertEqual(plan(like).one.order, ("y", "x"))

    def test_what_is_touched_is_told(self) -> None:
        made = plan(self.DATA)
        steps = {step.key: step for step in made.one.steps}
        words = {t.what: t.words.mm for t in steps["t1"].touched}
        self.assertIn("purge on", words["clamp"])
        self.assertEqual({t.what for t in made.one.steps[0].touched}, {"clamp", "torch", "dial"})
        self.assertEqual(made.one.steps[0].changed_s, {})

    def test_several_by_the_piece_and_by_the_seam(self) -> None:
        """Two pieces: by the seam each dial, torch and clamping once, and another piece taken up at
        every run but the first; waits by each piece's own parts.
        """
        made = plan({**self.DATA, "quantity": 2, "times": {"piece_s": 10}})
        piece, by_seam = made.batch.by_piece, made.batch.by_seam
        self.assertEqual(piece.items.piece_s, 10)
        self.assertEqual(by_seam.items.piece_s, 70)
        self.assertAlmostEqual(piece.items.arc_s, by_seam.items.arc_s)
        self.assertAlmostEqual(piece.items.arc_s, 2 * made.one.items.arc_s)
        self.assertEqual(
            made.batch.cheaper, "seam" if by_seam.items.cost_s < piece.items.cost_s else "piece"
        )
        self.assertIs(made.all, made.batch.way(made.batch.cheaper))
        for way in (piece, by_seam):
            ends: dict[tuple[str, int], float] = {}
            for step in way.steps:
                for (other, n), end in ends.items():
                    if n == step.piece and set(made.job.seam(other).joins) & set(
                        made.job.seam(step.key).joins
                    ):
                        self.assertGreaterEqual(
                            step.start_s, end + made.work.tasks[other].cool_s - 1e-6
                        )
                ends[step.key, step.piece] = step.end_s
        slow = plan({**self.DATA, "quantity": 2, "times": {"piece_s": 3000}})
        self.assertEqual(slow.batch.cheaper, "piece")


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
        made = plan({**job(seam("c1"), seam("t1", STAY, ("c", "d"))), "quantity": 4}, shop)
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
        cost = {i.list: i.money for i in take_of(tasks, made.all.steps, none).items}
        self.assertEqual((cost["tungstens"], cost["rods"]), (4, 2 * rods.need))
        both = together([take, take])
        self.assertEqual(next(i for i in both if i.list == "tungstens").need, 1)
        self.assertEqual(next(i for i in both if i.list == "rods").need, 2 * rods.need)
        self.assertEqual(next(i for i in both if i.list == "bars").need, bars.need)

    def test_by_gas_size_and_length_alone(self) -> None:
        """Only what is of the same gas, class, size and type counts as there; a cylinder that no
        regulator draws from any more gives nothing.
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
        made = plan({**job(seam("t1", STAY)), "quantity": 30}, make_shop(shop))
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
        """Three cylinders that each end within the job: each ends at the seam in which what went
        before and this are more than all so far hold.
        """
        cylinders = [{"name": str(i), "water_l": 1, "bar": 9 + i} for i in range(3)]
        made = plan({**job(seam("c1")), "quantity": 3}, make_shop({"cylinders": cylinders}))
        each, held, at = made.work.tasks["c1"].plan.gas.argon_l, 0.0, []
        for use in made.take.cylinders:
            held += use.holds_l
            at.append((use.name, use.piece))
            self.assertEqual(use.piece, int(held // each) + 1)
        self.assertEqual([name for name, _ in at], ["0", "1", "2"])
        self.assertAlmostEqual(made.take.lacking_l, 3 * each - held)

    def test_what_is_short_is_told_in_either_habit(self) -> None:
        made = plan(
            {**job(seam("t", STAY)), "quantity": 40},
            make_shop({"rods": [{"rod": "ER316L", "diameter_mm": 1.0, "count": 2}]}),
        )
        short = next(c for c in made.cautions if c.code == "job-short")
        self.assertIn("1 mm", said(short.sentence).mm)
        self.assertIn("0.040 in", said(short.sentence).inch)

    def test_nothing_entered_is_nothing_to_buy(self) -> None:
        self.assertEqual(plan(job(seam("c1"))).take.buy, ())


class Warping(unittest.TestCase):
    def test_verdicts_by_the_spread(self) -> None:
        """Flat where the upper stress is under, will bow where the lower is over, watch between."""
        task = plan(job(seam("c1", free_mm=90))).work.tasks["c1"]
        seen = set()
        for free in range(5, 200):
            warp = warp_of(task.plan, free)
            low, high = (s / warp.buckles_mpa for s in warp.stress_mpa)
            self.assertEqual(warp.verdict, BOW if low > 1 else FLAT if high <= 1 else WATCH)
            seen.add(warp.verdict)
        self.assertEqual(seen, {FLAT, WATCH, BOW})
        self.assertFalse(warp_of(task.plan, None).told)
        self.assertEqual(warp_of(task.plan, None).free_mm, 90)
        for long, free in ((60, 40), (81, 40.5), (290, 145), (400, 150)):
            of = plan(job(seam("c1", {**CORNER, "length_mm": long}))).work.tasks["c1"]
            self.assertAlmostEqual(warp_of(of.plan, None).free_mm, free)

    def test_figures_each_by_hand(self) -> None:
        """Both ends of the pull, the stress over both sheets, that of one sheet beside a flange
        over it alone; bars that lie nearer than the strip is wide, to two fifths.
        """
        lap = {
            **CORNER,
            "members": [
                {"metal": "316L", "thickness": "1.2 mm"},
                {"metal": "316L", "form": "flange", "thickness": "4 mm"},
            ],
            "joint": "tee",
            "back": "open",
            "finish": "sound",
            "service": "dry",
        }
        for joint, sheets in (
            (lap, 1),
            ({**CORNER, "back": "open", "finish": "sound", "service": "dry"}, 2),
        ):
            p = plan(job(seam("c1", joint))).work.tasks["c1"].plan
            warp = warp_of(p, 60)
            net = p.heat.heat_input_en_kj_mm * 1e3
            for got, times, volts in ((0, 1.25, 1.0), (1, 1.4, p.heat.high_voltage_v / 10.5)):
                full = 0.2 * net * times * volts
                strip = full * 1e3 / (500 * p.section.h_mm)
                self.assertAlmostEqual(warp.force_kn[got], full * max(0.5, 1 - strip / 180), 9)
                self.assertAlmostEqual(
                    warp.stress_mpa[got], warp.force_kn[got] * 1e3 / (60 * 1.2 * sheets), 9
                )
        thin = (
            plan(
                job(
                    seam(
                        "c1",
                        {**CORNER, "back": "copper-bar", "travel_mm_s": 0.8, "length_mm": 2000},
                    )
                )
            )
            .work.tasks["c1"]
            .plan
        )
        from wisearc.core.plan.arc.heat import field_of

        wall, full = (
            field_of(thin.section, thin.back, thin.travel, thin.pulse).wall_mm,
            0.25 * thin.heat.heat_input_en_kj_mm * 1e3,
        )
        strip = full * 1e3 / (500 * thin.section.h_mm)
        self.assertLess(wall, strip)
        self.assertAlmostEqual(
            warp_of(thin, 60).force_kn[0], full * max(0.4, wall / strip) * (1 - strip / 2000), 9
        )

    def test_runs_of_sixty_where_the_seam_is_longer_than_one_and_a_half(self) -> None:
        for long, there in ((90, False), (91, True)):
            task = plan(job(seam("c1", {**CORNER, "length_mm": long}, free_mm=90))).work.tasks["c1"]
            self.assertEqual("runs" in {one.what for one in levers(task, ASSUMED)}, there)

    def test_round_a_tube_and_off_thick_flanges_nothing_bows(self) -> None:
        self.assertIsNone(warp_of(plan(job(seam("t1", STAY))).work.tasks["t1"].plan, None))

    def test_what_pulls_less(self) -> None:
        made = plan(
            job(
                seam(
                    "c1",
                    {
                        **CORNER,
                        "back": "open",
                        "finish": "sound",
                        "service": "dry",
                        "length_mm": 300,
                    },
                    free_mm=90,
                )
            )
        )
        task = made.work.tasks["c1"]
        own, found = warp_of(task.plan, 90), levers(task, ASSUMED)
        self.assertIn("bars", {one.what for one in found})
        self.assertIn("runs", {one.what for one in found})
        for one in found:
            self.assertLess(one.warp.ratio, own.ratio)
        self.assertEqual([one.warp.ratio for one in found], sorted(one.warp.ratio for one in found))

    def test_sides_on_the_way(self) -> None:
        made = plan(
            {
                **job(
                    seam("c1", side="left", joins=("a",)),
                    seam("c2", side="left", joins=("b",)),
                    seam("c3", side="right", joins=("c",)),
                ),
                "order": ["c1", "c2", "c3"],
            }
        )
        pull, one = made.pull, made.warps["c1"].force_kn[0]
        self.assertAlmostEqual(pull.left_kn, 2 * one)
        self.assertAlmostEqual(pull.lean_kn, one)
        self.assertEqual((round(pull.most_kn - 2 * one, 6), pull.most_after), (0, "c2"))


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
            *(seam(f"s{i}", side="left" if i < 5 else "right", joins=(f"p{i}",)) for i in range(7))
        ),
        job(
            *(seam(f"s{i}", side="left" if i < 3 else "right", joins=(f"p{i}",)) for i in range(5))
        ),
        {},
        {},
    ),
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
                for c in plan(with_it, make_shop(shop) if shop else ASSUMED).cautions
            }
            self.assertIn((code, level), found, code)
            self.assertNotIn(
                code,
                {c.code for c in plan(without, make_shop(other) if other else ASSUMED).cautions},
                code,
            )

    def test_every_code_of_the_source_stands_in_the_table(self) -> None:
        self.assertEqual({(code, level) for code, level, *_ in TABLE}, in_source("jobs"))

    def test_most_serious_first(self) -> None:
        made = plan({**job(seam("a", ZINC, free_mm=150)), "parts": ["a", "b", "z"]})
        levels = [c.level for c in made.cautions]
        self.assertEqual(levels, sorted(levels, key=("stop", "caution", "note").index))


class Work(unittest.TestCase):
    def test_a_seam_is_called_by_its_joints_title(self) -> None:
        made = plan(job(seam("a", {**FOOT, "title": "Foot"}), seam("b", FOOT)))
        self.assertEqual(made.work.tasks["a"].title.mm, "Foot")
        self.assertIn("lap", made.work.tasks["b"].title.mm)

    def test_one_kept_before_the_wait_was_told_is_reckoned(self) -> None:
        """A plan that never told its wait costs what one made today does."""
        made = plan(job(seam("a"), seam("b", RIM)))
        old = {
            k: replace(t.plan, heat=replace(t.plan.heat, interpass_wait_s=None))
            for k, t in made.work.tasks.items()
        }
        again = plan_of_order(work_of(made.job, old), Best(made.one.order, 0, False), ASSUMED)
        self.assertEqual(again.one.items, made.one.items)
        self.assertEqual(best_order(again.work, lambda: True).order, made.best.order)


if __name__ == "__main__":
    unittest.main()
