"""Orders of seams against a complete enumeration and against a general solver.

Costs are calculated from the order alone, from the plan files by the definition of the format,
without any calculation of the product. The orders of the general solver are in
orders_general_solver.json with the solver and its time; benchmarks/order_reference.py makes them.
"""

import itertools
import json
import random
import unittest
from pathlib import Path
from unittest import mock

from tests.job_costs import ITEMS, calculate_cost_s, cheapest, may_follow, problem, with_rules
from tests.jobs import generated_job
from tests.untraced import Untraced
from wisearc.core.jobs import tack_up
from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import build_work, find_best_order, plan_of_order
from wisearc.core.jobs.problem import Problem, build_problem
from wisearc.core.jobs.search import search
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.jobs.job_json import items_data
from wisearc.formats.plan_json import plan_data
from wisearc.services.jobs.job_plans import plan_seams

SOLVER = Path(__file__).with_name("orders_general_solver.json")


class Brute(Untraced):
    def test_three_hundred_jobs_of_up_to_seven_seams(self) -> None:
        """The search proves the best order, and no order is cheaper."""
        for seed in range(300):
            n = 1 + seed % 6 if seed % 15 else 7
            p = problem(n, seed)
            *_, found = search(p, lambda: True)
            self.assertTrue(found.proved)
            self.assertEqual(sorted(found.order), list(range(n)))
            self.assertAlmostEqual(found.cost_s, cheapest(p), 6, f"{n} seams, seed {seed}")

    def test_purges_sections_and_groups(self) -> None:
        """The same with the rules of a job that is tacked first, or has seams in sections."""
        for seed in range(200):
            n = 2 + seed % 5 if seed % 20 else 7
            p = with_rules(n, seed)
            *_, found = search(p, lambda: True)
            self.assertTrue(found.proved)
            self.assertAlmostEqual(found.cost_s, cheapest(p), 6, f"{n} steps, seed {seed}")
            self.assertLessEqual(p.bound_s, found.cost_s + 1e-6)

    def test_arrays_and_beams_know_the_rules(self) -> None:
        """The costs in arrays are those of one order, and a beam breaks no rule."""
        import numpy as np

        from wisearc.core.jobs.beam import Arrays, find_beam_order

        for seed in range(60):
            p = with_rules(7, seed)
            arrays = Arrays(p)
            rng = random.Random(seed)
            orders = [rng.sample(range(7), 7) for _ in range(20)]
            orders += [
                list(o) for o in itertools.islice(itertools.permutations(range(7)), 0, 5040, 97)
            ]
            costs = arrays.costs(np.array(orders))
            for order, cost in zip(orders, costs, strict=True):
                allowed = all(order.index(a) < order.index(b) for a, b in p.before) and all(
                    may_follow(p, order[:i], j) for i, j in enumerate(map(int, order))
                )
                self.assertEqual(bool(np.isfinite(cost)), allowed, (seed, order))
                if allowed:
                    self.assertAlmostEqual(float(cost), p.cost_s(order), 6)
            beam = find_beam_order(arrays, 12, 2.4)
            self.assertTrue(np.isfinite(arrays.costs(np.array([beam])))[0], seed)

    def test_proved_by_going_on_where_it_is_larger(self) -> None:
        """Twelve seams.

        No order of a long local search is cheaper, and the bound is never above it.
        """
        from wisearc.core.jobs.beam import Arrays, improve_order

        for seed in range(4):
            p = problem(12, seed)
            *_, found = search(p, lambda: True)
            self.assertTrue(found.proved)
            asked = iter(range(200))
            *_, (other, _order) = improve_order(
                Arrays(p),
                list(range(12)) if not p.before else list(found.order),
                lambda asked=asked: next(asked, None) is not None,
            )
            self.assertGreaterEqual(other, found.cost_s - 1e-6)
            self.assertLessEqual(p.bound_s, found.cost_s + 1e-6)


class Tacks(Untraced):
    def test_no_order_of_tacks_is_cheaper(self) -> None:
        """Against every order of the tacks, face by face, calculated here."""
        for seed in range(12):
            data = generated_job(3 + seed % 4, seed, tack_up=True)
            made = make_job(data)
            plans = plan_seams(made, ASSUMED)
            files = {key: plan_data(plan) for key, plan in plans.items()}
            work = build_work(made, plans)
            self.assertTrue(work.tack_ends.is_proved)
            face_up = {seam["key"]: seam["face"] for seam in data["seams"]}
            for first in files:
                min_cost_s = float("inf")
                for tacks in itertools.permutations(files):
                    runs = [face for face, _ in itertools.groupby(face_up[key] for key in tacks)]
                    if len(runs) == len(set(runs)):
                        own = calculate_cost_s(data, files, [first], list(tacks))
                        min_cost_s = min(
                            min_cost_s, sum(own.values()) - own["arc_s"] - own["balance_s"]
                        )
                self.assertAlmostEqual(
                    work.find_tack_end(work.tasks[first]).start_s, min_cost_s, 2, f"{seed} {first}"
                )

    def test_many_seams_by_their_settings(self) -> None:
        """Without purges the order by settings is proven too: compared with the small search."""
        for seed in range(6):
            data = generated_job(9, seed, tack_up=True)
            for seam in data["seams"]:
                if seam["joint"]["joint"] == "tube-butt":
                    seam["joint"] = data["seams"][0]["joint"]
            data["seams"] = [s for s in data["seams"] if s["joint"]["joint"] != "tube-butt"]
            if len(data["seams"]) < 3:
                continue
            made = make_job(data)
            work = build_work(made, plan_seams(made, ASSUMED))
            small = work.tack_ends
            with mock.patch.object(tack_up, "PROVED_TO", 0):
                large = tack_up.find_tack_orders(work)
            self.assertTrue(large.is_proved)
            for last, (cost, _) in large.by_last.items():
                self.assertAlmostEqual(cost, small.by_last[last][0], 6, f"{seed} {last}")
            self.assertAlmostEqual(large.bound_s, small.bound_s, 6)


class Costs(Untraced):
    def test_items_from_the_order_alone(self) -> None:
        """Each item of the cost, of jobs with real joints, against a calculation in this file.

        As entered, with seams in sections, and tacked up.
        """
        for seed in range(9):
            data = generated_job(7, seed, tack_up=seed % 3 == 2)
            if seed % 3:
                for seam in data["seams"][:2]:
                    seam["pieces"] = 2 + seed % 2
            made = make_job(data)
            plans = plan_seams(made, ASSUMED)
            files = {key: plan_data(plan) for key, plan in plans.items()}
            work = build_work(made, plans)
            best = find_best_order(work, lambda: True)
            # The seams in this order and reversed, with a rule that neither direction requires.
            for order in (best.order, tuple(reversed(best.order))):
                schedule = plan_of_order(work, type(best)(order, 0, False), ASSUMED).one
                told = items_data(schedule.items)
                tacks = [step.key for step in schedule.steps if step.kind == "tack"]
                self.assertEqual(sorted(tacks), sorted(files) if made.tack_up else [])
                own = calculate_cost_s(data, files, list(order), tacks)
                for name in ITEMS:
                    mine = told.get(name, 0.0)
                    self.assertAlmostEqual(mine, own[name], 2, f"{name}, seed {seed}")
                self.assertAlmostEqual(told["cost_s"], sum(own.values()), 2)

    def test_the_search_counts_as_the_order_does(self) -> None:
        """The cost in the figures of the search is the cost of the order."""
        for seed in range(6):
            made = make_job(generated_job(12, seed))
            work = build_work(made, plan_seams(made, ASSUMED))
            p = build_problem(work)
            best = find_best_order(work, iter([True] * 20 + [False] * 100000).__next__)
            order = p.number_steps(best.order)
            self.assertAlmostEqual(
                p.cost_s(order),
                items_data(plan_of_order(work, best, ASSUMED).one.items)["cost_s"],
                2,
            )

    def test_worked_case_calculated_manually(self) -> None:
        """Three seams.

        100, 50 and 30 s of arc; the second shares a part with the first, which cools 90 s; the
        third has other settings, and fills the wait.
        """
        p = Problem(
            ("a", "b", "c"),
            (100, 50, 30),
            (90, 0, 0),
            ((0, 0, 1), (0, 0, 0), (0, 0, 0)),
            (60, 180, 240),
            ((0,), (0,), (1,)),
            (1, 1, 0),
            (),
            30,
            (True,) * 3,
        )
        # a, b, c: 100 + 90 wait + 50 + 60 + 30, and 30 for b on the same side, 30 for the same lead
        # after c.
        self.assertEqual(p.cost_s([0, 1, 2]), 390)
        # b, a, c: no wait.
        self.assertEqual(p.cost_s([1, 0, 2]), 50 + 100 + 60 + 30 + 60)
        # c, b, a: one setting, no wait, one step with a lead of two.
        *_, found = search(p, lambda: True)
        self.assertEqual((found.order, found.cost_s), ((2, 1, 0), 30 + 60 + 50 + 100 + 30))


class Bounds(unittest.TestCase):
    def test_case_calculated_manually(self) -> None:
        """Four seams of 100 s.

        Two settings, three torches, one clamping, no common part: 400 + 60 + 2 × 180. On one part
        with 500 s of cooling: 400 + 3 × 500.
        """
        kinds = ((0, 1, 0, 1), (0, 1, 2, 2), (0, 0, 0, 0))
        apart = Problem(
            tuple("abcd"),
            (100.0,) * 4,
            (500.0,) * 4,
            kinds,
            (60, 180, 240),
            ((0,), (1,), (2,), (3,)),
            (0,) * 4,
            (),
            30,
            (True,) * 4,
        )
        self.assertEqual(apart.bound_s, 400 + 60 + 360)
        one = Problem(
            tuple("abcd"),
            (100.0,) * 4,
            (500.0, 100.0, 500.0, 500.0),
            kinds,
            (60, 180, 240),
            ((0,),) * 4,
            (0,) * 4,
            (),
            30,
            (True,) * 4,
        )
        self.assertEqual(one.bound_s, 400 + 500 + 500 + 100)
        # After the first, three arcs are left; its settings and torch are in place.
        self.assertEqual(apart.sequence_bound_s([1, 2, 3], 0), 300 + 60 + 2 * 180)
        self.assertEqual(apart.sequence_bound_s([2], 0), 100 + 180)
        # Four on the left: steps of 0, 1, 2, 3 over one.
        left = Problem(
            tuple("abcd"),
            (100.0,) * 4,
            (0.0,) * 4,
            ((0,) * 4,) * 3,
            (60, 180, 240),
            ((0,), (1,), (2,), (3,)),
            (1,) * 4,
            (),
            30,
            (True,) * 4,
        )
        self.assertEqual(left.bound_s, 400 + 30 * (1 + 2 + 3))

    def test_sides_against_every_way(self) -> None:
        """The minimum penalty from a lead, against the cheapest path found step by step."""
        for end in range(-4, 5):
            n = 8
            p = Problem(
                tuple(str(i) for i in range(n)),
                (1.0,) * n,
                (0.0,) * n,
                ((0,) * n,) * 3,
                (1, 1, 1),
                ((0,),) * n,
                tuple([1 if end > 0 else -1] * abs(end) + [0] * (n - abs(end))),
                (),
                1.0,
                (True,) * n,
            )
            least = {end: 0.0}
            for _ in range(20):
                for lean in range(-n, n + 1):
                    for other in (lean - 1, lean + 1):
                        if other in least:
                            least[lean] = min(
                                least.get(lean, 1e9), least[other] + max(0, abs(other) - 1)
                            )
            for lean in range(-6, 7):
                self.assertEqual(p.lean_s[n + lean], least[lean], (lean, end))


class Many(Untraced):
    def test_thirty_seams_against_a_general_solver(self) -> None:
        """At most 5 % above the general solver after minutes.

        Its cost is that of its order, so both calculate alike.
        """
        told = json.loads(SOLVER.read_text(encoding="utf-8"))
        for row in told["orders"]:
            p = problem(row["seams"], row["seed"])
            self.assertAlmostEqual(p.cost_s(row["order"]), row["cost_s"], 0)
            asked = iter(range(150))
            *_, found = search(p, lambda asked=asked: next(asked, None) is not None)
            self.assertLessEqual(found.cost_s, 1.05 * row["cost_s"], row)
            self.assertLessEqual(p.bound_s, row["cost_s"] + 0.5)

    def test_a_hundred_seams_are_ordered_by_every_rule(self) -> None:
        """The first answer of a hundred seams breaks no rule, and later ones are cheaper."""
        p = problem(100, 3)
        asked = iter(range(150))
        costs = []
        for found in search(p, lambda: next(asked, None) is not None):
            place = {j: i for i, j in enumerate(found.order)}
            self.assertFalse([pair for pair in p.before if place[pair[0]] > place[pair[1]]])
            self.assertAlmostEqual(found.cost_s, p.cost_s(found.order))
            costs.append(found.cost_s)
        self.assertGreater(len(costs), 1)
        self.assertEqual(costs, sorted(costs, reverse=True))

    def test_it_stops_when_asked(self) -> None:
        """Stopped immediately, it gives the first answer only."""
        self.assertEqual(len(list(search(problem(100, 5), lambda: False))), 1)


if __name__ == "__main__":
    unittest.main()
