"""Order of the seams and its times."""

import unittest
from itertools import product

from msgspec.structs import replace

from tests.jobs import FOOT, RIM, STAY, job, plan_job, seam
from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import (
    Best,
    build_work,
    evaluate_move,
    explain_position,
    find_best_order,
    judge_manual_order,
    plan_of_order,
)
from wisearc.core.jobs.order import find_violations, schedule_order
from wisearc.core.shop.shop import ASSUMED


class Order(unittest.TestCase):
    DATA = job(
        seam("c1", side="left"),
        seam("c2", side="right"),
        seam("r1", RIM, hides=["c2"], seen=False),
        seam("t1", STAY, ("c", "d"), face="bottom"),
    )

    def test_an_order_that_cannot_be(self) -> None:
        made = plan_job(self.DATA)
        self.assertEqual(find_violations(made.work, made.one.order), [])
        self.assertEqual(
            find_violations(made.work, ["c1", "r1", "c2", "t1"]),
            ["c2 is hidden by r1, so it comes first"],
        )
        self.assertEqual(
            find_violations(made.work, ["c1", "c1", "r1", "zz"]),
            [
                "c1 appears twice",
                "zz is not a seam of this job",
                "c2 is missing",
                "t1 is missing",
            ],
        )

    def test_explanation_names_the_cheapest_other_position(self) -> None:
        made = plan_job({**self.DATA, "quantity": 3})
        ways = (("one", 1, False), ("piece", 3, False), ("seam", 3, True))
        for key, (how, pieces, by_seam) in product(made.one.order, ways):
            why = explain_position(made.work, made.one.order, key, how)
            costs = {}
            for to in range(4):
                way = evaluate_move(made.work, made.one.order, key, to, how)
                if to != why.place and not way.broken:
                    now, then = (
                        schedule_order(made.work, order, pieces, by_seam).items.cost_s
                        for order in (made.one.order, way.order)
                    )
                    costs[to] = then - now
            if why.next_best is None:
                self.assertFalse(costs)
            else:
                self.assertAlmostEqual(why.next_best.more_s, min(costs.values()))
                self.assertAlmostEqual(sum(why.next_best.items.values()), why.next_best.more_s, 0)
        self.assertIn(
            "c2 is hidden by r1, so it comes first",
            explain_position(made.work, made.one.order, "c2").held,
        )

    def test_optimum_proven_by_enumeration(self) -> None:
        """A manual order counts as proven best at the proven cost, and not above it."""
        found = plan_job(self.DATA)
        dearer = next(
            order
            for order in (
                tuple(reversed(found.one.order)),
                (*found.one.order[1:], found.one.order[0]),
            )
            if schedule_order(found.work, order).items.cost_s > found.one.items.cost_s
        )
        self.assertFalse(judge_manual_order(found.work, dearer, found.best).proved)
        self.assertFalse(
            judge_manual_order(
                found.work, found.one.order, replace(found.best, proved=False)
            ).proved
        )
        self.assertAlmostEqual(
            judge_manual_order(found.work, found.one.order, found.best).bound_s, found.best.bound_s
        )

    def test_pins_hold_a_seam(self) -> None:
        made = plan_job({**self.DATA, "first": "t1"})
        self.assertEqual(
            explain_position(made.work, made.one.order, "t1").held, ("it is pinned first",)
        )
        self.assertIsNone(explain_position(made.work, made.one.order, "t1").next_best)
        self.assertNotIn(
            "it is pinned first", explain_position(made.work, made.one.order, "c1").held
        )

    def test_texts_of_setup_changes(self) -> None:
        """Only differences are listed, and everything at the start."""
        made = plan_job(
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
            ({"postflow_s": 9}, "post-flow 9 s"),
        ):
            second = {**first, "pins": {**first["pins"], **pins}}
            made = plan_job(job(seam("a", first), seam("b", second), order=["a", "b"]))
            touched = {t.what: t.words.mm for t in made.one.steps[1].touched}
            with self.subTest(pins=pins):
                self.assertRegex(touched.get("dial", ""), f"^{words}$")

    def test_manual_order_is_kept(self) -> None:
        found = plan_job(self.DATA)
        order = tuple(reversed(found.one.order))
        made = plan_job({**self.DATA, "order": list(order)})
        self.assertEqual((made.one.order, made.best.by_hand), (order, True))
        # An order that breaks a rule is never proven, at any cost.
        free = plan_job(job(seam("a", joins=("a",)), seam("b", joins=("b",))))
        tied = build_work(
            make_job(job(seam("a", joins=("a",), after=["b"]), seam("b", joins=("b",)))),
            {k: t.plan for k, t in free.work.tasks.items()},
        )
        self.assertTrue(judge_manual_order(free.work, ("a", "b"), free.best).proved)
        self.assertFalse(
            judge_manual_order(tied, ("a", "b"), find_best_order(tied, lambda: True)).proved
        )
        self.assertLessEqual(made.best.bound_s, made.one.items.cost_s)
        self.assertTrue(judge_manual_order(found.work, found.one.order, found.best).proved)

    def test_pinned_and_unseen_first(self) -> None:
        self.assertEqual(plan_job({**self.DATA, "first": "c1"}).one.order[0], "c1")
        self.assertEqual(plan_job({**self.DATA, "last": "c1"}).one.order[-1], "c1")
        # of two that cost the same the one that is not seen comes first
        like = job(seam("x", joins=("a",)), seam("y", joins=("b",), seen=False))
        self.assertEqual(plan_job(like).one.order, ("y", "x"))

    def test_setup_changes_are_listed(self) -> None:
        made = plan_job(self.DATA)
        steps = {step.key: step for step in made.one.steps}
        words = {t.what: t.words.mm for t in steps["t1"].touched}
        self.assertIn("purge on", words["clamp"])
        self.assertEqual({t.what for t in made.one.steps[0].touched}, {"clamp", "torch", "dial"})
        self.assertEqual(made.one.steps[0].changed_s, {})

    def test_several_by_the_piece_and_by_the_seam(self) -> None:
        """Two pieces.

        By the seam each dial, torch and clamping once, and another piece taken up at every run but
        the first; waits by each piece's own parts.
        """
        made = plan_job({**self.DATA, "quantity": 2, "times": {"piece_s": 10}})
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
        slow = plan_job({**self.DATA, "quantity": 2, "times": {"piece_s": 3000}})
        self.assertEqual(slow.batch.cheaper, "piece")


class Work(unittest.TestCase):
    def test_a_seam_is_called_by_its_joints_title(self) -> None:
        made = plan_job(job(seam("a", {**FOOT, "title": "Foot"}), seam("b", FOOT)))
        self.assertEqual(made.work.tasks["a"].title.mm, "Foot")
        self.assertIn("lap", made.work.tasks["b"].title.mm)
        named = seam("c", {**FOOT, "title": "Foot"}, title="Rail")
        found = make_job(job(seam("a", {**FOOT, "title": "Foot"}), seam("b", FOOT), named))
        self.assertEqual([one.title for one in found.seams], ["Foot", "b", "Rail"])

    def test_plan_saved_before_the_wait_existed_is_calculated(self) -> None:
        """A plan without a saved wait costs as much as a new one."""
        made = plan_job(job(seam("a"), seam("b", RIM)))
        old = {
            k: replace(t.plan, heat=replace(t.plan.heat, interpass_wait_s=None))
            for k, t in made.work.tasks.items()
        }
        again = plan_of_order(build_work(made.job, old), Best(made.one.order, 0, False), ASSUMED)
        self.assertEqual(again.one.items, made.one.items)
        self.assertEqual(find_best_order(again.work, lambda: True).order, made.best.order)


if __name__ == "__main__":
    unittest.main()
