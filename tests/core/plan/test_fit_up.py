"""The effect of a gap, the preparation, bar positions and the order of tacks."""

import math
import unittest
from itertools import pairwise

from tests.samples import COPE, EVERY, FLANGE, member, plan, tube
from wisearc.core import catalogue
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.preparation.bar_runs import (
    MAX_LINES,
    build_bench_list,
    find_square_checks,
    list_bar_faces,
    split_by_bars,
)
from wisearc.core.plan.preparation.make_ready import calculate_gap_effect, list_preparation
from wisearc.core.shop.data import make_shop
from wisearc.core.shop.shop import ASSUMED, Bar
from wisearc.presenters.fit_up import fit_up_view, max_gap_mm
from wisearc.services.set_up.tacking import list_bar_runs


def bar(length: float, count: int, metal: str = "copper") -> Bar:
    return Bar(
        metal=metal, length_mm=length, width_mm=25, thickness_mm=6, grooved=True, count=count
    )


class Gap(unittest.TestCase):
    def test_case_calculated_manually(self) -> None:
        """0.3 mm in 1.5 mm over 300 mm.

        135 mm³, of 1.0 mm rod (0.785 mm²) 172 mm; spread over a pool of 4.2 mm it sinks 0.107 mm.
        """
        made = plan("butt", length_mm=300)
        cost = calculate_gap_effect(0.3, 0.375, made.section, 4.2, 1.0)
        self.assertAlmostEqual(cost.rod_mm, 0.3 * 1.5 * 300 / (math.pi / 4), places=6)
        self.assertAlmostEqual(cost.sinks_mm, 0.45 / 4.2, places=9)
        self.assertAlmostEqual(cost.share, 0.8)
        # a rod of 1.6 mm (2.011 mm²): 67 mm
        thicker = calculate_gap_effect(0.3, 0.375, made.section, 4.2, 1.6)
        self.assertAlmostEqual(thicker.rod_mm, 135 / 2.0106, delta=0.002)

    def test_verdicts_at_their_thresholds(self) -> None:
        made = plan("butt", length_mm=300)
        for gap, verdict in (
            (0.0, "none"),
            (0.01, "easy"),
            (0.131, "easy"),
            (0.132, "careful"),
            (0.375, "careful"),
            (0.376, "too-wide"),
        ):
            with self.subTest(gap=gap):
                self.assertEqual(
                    calculate_gap_effect(gap, 0.375, made.section, 4.0, 1.0).verdict, verdict
                )

    def test_no_gap_is_allowed_at_all(self) -> None:
        made = plan()
        self.assertEqual(calculate_gap_effect(0.0, 0.0, made.section, 4.0, 1.0).verdict, "none")

    def test_too_wide_bare_but_not_with_a_rod(self) -> None:
        """By the plan.

        Autogenous to 0.05 mm, with a rod to a quarter of the thickness; above that, refit.
        """
        corner = plan("outside-corner", member(thickness="1.2 mm"), length_mm=380)
        self.assertIsNone(corner.filler.rod)
        for gap, verdict in (
            (0.05, "careful"),
            (0.06, "with-rod"),
            (0.3, "with-rod"),
            (0.31, "too-wide"),
        ):
            with self.subTest(gap=gap):
                self.assertEqual(
                    calculate_gap_effect(
                        gap, corner.fit_up.max_gap_mm, corner.section, 3.0, None
                    ).verdict,
                    verdict,
                )
        view = fit_up_view(corner, "0.2", ASSUMED, "mm")
        self.assertIn("use the rod", view.verdict)
        self.assertIn("Filler", [row.label for row in view.rows])

    def test_maximum_of_several(self) -> None:
        self.assertEqual(max_gap_mm("0.1, 0.25; 0,2", "mm"), 0.25)
        self.assertAlmostEqual(max_gap_mm(".01", "mm"), 0.254)
        self.assertAlmostEqual(max_gap_mm("0.01", "in"), 0.254)
        self.assertEqual(max_gap_mm("0", "mm"), 0)
        for text in ("wide", "-0.1", "11 mm", ", ".join(["0.1"] * 41)):
            with self.subTest(text=text), self.assertRaises(InputError):
                max_gap_mm(text, "mm")

    def test_effect_on_the_plan(self) -> None:
        view = fit_up_view(plan("butt", length_mm=300), "0.1, 0.2", ASSUMED, "mm")
        self.assertEqual(view.found_mm, 0.2)
        self.assertIn("Pulse", [row.label for row in view.rows])
        rod = next(row for row in view.rows if row.label == "Rod length")
        self.assertIn("more", rod.words)
        wide = fit_up_view(plan("butt", length_mm=300), "0.5", ASSUMED, "mm")
        self.assertEqual(wide.cost.verdict, "too-wide")
        self.assertIn("Refit", wide.verdict)
        wrong = fit_up_view(plan("butt", length_mm=300), "wide", ASSUMED, "mm")
        self.assertTrue(wrong.fault and wrong.typed == "wide")


class Lines(unittest.TestCase):
    def test_every_line_is_asked_for_by_some_joint_and_not_by_all(self) -> None:
        more = {
            "bare": {"joint": "outside-corner", "members": [member("304L", "1.2 mm")] * 2},
            "thick": {
                "joint": "tee",
                "members": [member("304L", "0.8 mm"), member("mild-steel", "4 mm")],
            },
            "tubes": {"joint": "tube-butt", "members": [tube(), tube()], "length": "all-round"},
            "steel": {"joint": "butt", "members": [member("mild-steel"), member("mild-steel")]},
            "far": {
                "joint": "tee",
                "members": [member("304L", "0.8 mm"), member("304L", "3.5 mm")],
            },
        }
        seen: dict[str, int] = {}
        for data in (*EVERY.values(), *more.values()):
            made = make_plan(make_joint(data), ASSUMED)
            for part in list_preparation(made.section, made.filler.rod is None).values():
                for line in part:
                    seen[line.key] = seen.get(line.key, 0) + 1
        self.assertEqual(set(seen), set(catalogue.fit_up_lines()))
        for line in catalogue.fit_up_lines().values():
            if line.when:
                self.assertLess(seen[line.key], len(EVERY) + len(more), line.key)

    def test_by_metal(self) -> None:
        def keys(data: dict) -> set[str]:
            made = make_plan(make_joint(data), ASSUMED)
            return {
                line.key
                for part in list_preparation(made.section, made.filler.rod is None).values()
                for line in part
            }

        steel = keys({"joint": "butt", "members": [member("mild-steel"), member("mild-steel")]})
        self.assertIn("scale", steel)
        self.assertFalse({"brush", "dust"} & steel)
        self.assertEqual(
            {"scale", "brush", "dust"}
            & keys({"joint": "tee", "members": [member(), member("mild-steel")]}),
            {"scale", "brush", "dust"},
        )
        self.assertTrue({"run-first", "bore"} <= keys(COPE))
        for data, first in (
            (COPE, "run-first"),
            (FLANGE, "plate-first"),
            (
                {"joint": "tube-butt", "members": [tube(), tube()], "length": "all-round"},
                "vee-first",
            ),
        ):
            self.assertEqual(
                {"run-first", "plate-first", "vee-first", "line-first", "through-first"}
                & keys(data),
                {first},
            )
        self.assertEqual(
            {"line-first", "vee-first"} & keys({"joint": "butt", "members": [member(), member()]}),
            {"line-first"},
        )


class Bars(unittest.TestCase):
    def test_runs_cover_the_seam_once(self) -> None:
        for seam, at_once, owned in (
            (380, 2, [bar(150, 6)]),
            (380, 2, [bar(150, 4), bar(100, 2)]),
            (1000, 3, [bar(150, 6), bar(200, 2)]),
            (90, 2, [bar(150, 6)]),
        ):
            runs = split_by_bars(seam, at_once, owned, 100)
            with self.subTest(seam=seam, owned=owned):
                self.assertEqual(runs[0].start_mm, 0)
                self.assertEqual(runs[-1].end_mm, seam)
                for a, b in pairwise(runs):
                    self.assertEqual(a.end_mm, b.start_mm)
                self.assertTrue(
                    all(
                        r.bars <= sum(b.count for b in owned) and r.bars % at_once == 0
                        for r in runs
                    )
                )

    def test_case_calculated_manually(self) -> None:
        """Six bars of 150, two a place.

        Three places, 450 mm at once; four of them: 300 at once, so twice on 380.
        """
        self.assertEqual(
            [(r.start_mm, r.end_mm, r.bars) for r in split_by_bars(380, 2, [bar(150, 6)], 100)],
            [(0, 380, 6)],
        )
        self.assertEqual(
            [(r.start_mm, r.end_mm, r.bars) for r in split_by_bars(380, 2, [bar(150, 4)], 100)],
            [(0, 300, 4), (300, 380, 2)],
        )
        # just as long as the bars, and a hair longer
        self.assertEqual(len(split_by_bars(300, 2, [bar(150, 4)], 100)), 1)
        self.assertEqual([r.bars for r in split_by_bars(300.5, 2, [bar(150, 4)], 100)], [4, 2])
        self.assertEqual([r.bars for r in split_by_bars(300, 2, [bar(150, 6)], 100)], [4])
        # fewer than one set: of the usual length, to be got
        self.assertEqual(len(split_by_bars(380, 2, [bar(150, 1)], 100)), 4)
        self.assertEqual(split_by_bars(380, 0, None, 100), [])

    def test_faces_by_joint(self) -> None:
        self.assertEqual(
            len(list_bar_faces(plan("outside-corner", member(thickness="1.2 mm"), length_mm=380))),
            2,
        )
        self.assertEqual(list_bar_faces(make_plan(make_joint(COPE), ASSUMED)), ())
        flat = plan("butt", length_mm=300)
        self.assertIsNotNone(flat.back.bar_most_mm)
        self.assertEqual(len(list_bar_faces(flat)), 3)
        close = plan("butt", length_mm=300, reach_mm=1)
        self.assertIsNone(close.back.bar_most_mm)
        self.assertEqual(list_bar_faces(close), ("at the root, under the seam",))

    def test_by_the_shops_bars(self) -> None:
        shop = make_shop(
            {
                "bars": [
                    {"metal": "copper", "length_mm": 150, "count": 4},
                    {"metal": "aluminium", "length_mm": 500, "count": 9},
                ]
            }
        )
        made = plan("outside-corner", member(thickness="1.2 mm"), length_mm=380)
        self.assertEqual([r.end_mm for r in list_bar_runs(made, shop)], [300, 380])


class Order(unittest.TestCase):
    def test_bars_first_then_tacks_then_runs(self) -> None:
        made = plan("outside-corner", member(thickness="1.2 mm"), length_mm=380)
        found = build_bench_list(made, split_by_bars(380, 2, [bar(150, 4)], 100))
        kinds = [line.kind for line in found]
        self.assertEqual(kinds[0], "bars")
        tacks = [line for line in found if line.tacks]
        self.assertEqual([i for line in tacks for i in line.tacks], list(made.tacks.order))
        self.assertEqual(found[found.index(tacks[1]) + 1].kind, "true")
        self.assertEqual([line.key for line in found[-3:]], ["weld-1", "bars-2", "weld-2"])
        self.assertEqual(len({line.key for line in found}), len(found))

    def test_purge_first_and_round_the_tube(self) -> None:
        found = build_bench_list(make_plan(make_joint(COPE), ASSUMED), [])
        self.assertEqual(found[0].kind, "gas")
        self.assertIn("180°", found[2].words.text())
        self.assertEqual([line.key for line in found if line.kind == "true"], ["true-2", "look"])

    def test_very_many(self) -> None:
        made = plan("butt", length_mm=20_000)
        found = build_bench_list(made, [], one_by_one=True)
        self.assertEqual(sum(bool(line.tacks) for line in found), MAX_LINES)
        self.assertIn("more", next(line for line in found if line.key == "tacks-more").words.text())

    def test_long_seam_has_a_line_for_each_round(self) -> None:
        """A 700 mm corner has a page of lines, with every tack in one of them."""
        made = plan("outside-corner", member(thickness="1 mm"), length_mm=700)
        self.assertGreater(made.tacks.count, 30)
        found = build_bench_list(made, [])
        tacks = [line for line in found if line.tacks]
        self.assertLess(len(found), 16)
        self.assertEqual([i for line in tacks for i in line.tacks], list(made.tacks.order))
        fifth = tacks[4]
        self.assertEqual(fifth.keys, ("tack-5", "tack-6", "tack-7", "tack-8"))
        self.assertIn("Tacks 5 to 8", fifth.words.text())
        self.assertFalse(fifth.is_ticked({"tack-5", "tack-6"}))
        self.assertTrue(fifth.is_ticked(set(fifth.keys)))
        # Every round ends with a check for square.
        kinds = [line.kind for line in found]
        self.assertEqual(kinds[found.index(fifth) + 1], "true")

    def test_runs_over_the_limit_of_lines_are_counted(self) -> None:
        made = plan("butt", length_mm=20_000)
        for count, words in (
            (MAX_LINES, None),
            (MAX_LINES + 1, "Continue along the seam, 1 run more."),
            (MAX_LINES + 5, "Continue along the seam, 5 runs more."),
        ):
            runs = split_by_bars(100.0 * count, 2, [bar(100, 2)], 100)
            self.assertEqual(len(runs), count)
            found = [one for one in build_bench_list(made, runs) if one.key == "weld-more"]
            self.assertEqual([one.words.text() for one in found], [words] if words else [])

    def test_pauses(self) -> None:
        """Check square after the first two, pull true, continue.

        Common practice, no source; at each doubling after: estimate.
        """
        self.assertEqual(sorted(find_square_checks(17)), [2, 4, 8, 16])
        self.assertEqual(sorted(find_square_checks(16)), [2, 4, 8])
        self.assertEqual(sorted(find_square_checks(1)), [])
