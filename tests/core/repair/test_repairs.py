"""Repairs on the part: what, how far, how often. Common practice, no source, unless named."""

from __future__ import annotations

import unittest
from typing import Any

from tests import samples
from tests.samples import member, plan, typed
from wisearc.core import catalogue
from wisearc.core.plan.plan import Plan
from wisearc.core.quantities import Quantity
from wisearc.core.repair.repairs import Repair, count_allowed, list_repairs
from wisearc.core.run.recorded_repair import list_repairable

BUTT: dict[str, Any] = {
    "kind": "butt",
    "a": member(thickness="1.5 mm"),
    "length": "100 mm",
    "filler": "ER308L",
    "service": "dry",
}
# Seen on the arc or the tungsten; the part itself needs nothing.
CAUSE_ONLY = {"keyhole", "rod-grey", "tungsten-dark", "frosty", "wobble", "arc-wander"}


def of(**more: Any) -> Plan:
    """Return the plan of the butt, changed."""
    return plan(**{**BUTT, **more})


def repair(made: Plan, flaw: str, **more: Any) -> Repair:
    """Return the repair of a flaw of a run."""
    faults = [] if flaw == "sugar" else [flaw]
    back = {"colour": "sugar" if flaw == "sugar" else "silver"}
    run = samples.run(dict(made.joint), good=False, faults=faults, back=back, **more)
    (found,) = list_repairs(made, typed(run))
    return found


def text(found: Repair, units: str = "mm") -> str:
    """Return its steps as one text."""
    return " ".join(step.text(units) for step in found.steps)


def recorded(flaw: str, *results: str, **more: Any) -> list[dict[str, Any]]:
    """Return recorded repairs of a flaw."""
    same = {"flaw": flaw, "when": "2026-03-05", "who": "R.T.", **more}
    return [{**same, "result": result} for result in results]


class Repairs(unittest.TestCase):
    def test_every_flaw_of_the_part_has_a_repair(self) -> None:
        flaws = {*catalogue.load_flaws(), catalogue.OXIDISED_ROOT}
        self.assertEqual(flaws - set(list_repairable()), CAUSE_ONLY)
        tube = plan("tube-butt", samples.tube(), length="all-round")
        for made in (of(), tube, plan("butt", member("4130", "1.5 mm"), length="100 mm")):
            for flaw in list_repairable():
                found = repair(made, flaw)
                self.assertTrue(found.steps, flaw)
                for units in ("mm", "in"):
                    whys = (why.sentence for why in found.why)
                    for words in (*found.steps, found.limit, *whys):
                        self.assertNotRegex(words.text(units), r"[{}]|None")

    def test_a_good_run_has_none(self) -> None:
        made = of()
        self.assertEqual(list_repairs(made, typed(samples.run(dict(made.joint)))), ())

    def test_an_oxidised_root_is_ground_off_or_cut_out_and_never_welded_over(self) -> None:
        sheet, tube = of(), plan("tube-butt", samples.tube(), length="all-round")
        self.assertIn("Grind the crust from behind", text(repair(sheet, "sugar")))
        self.assertNotIn("Cut the seam out", text(repair(sheet, "sugar")))
        cut = text(repair(tube, "sugar"))
        self.assertIn("Cut the seam out", cut)
        self.assertIn("Purge for 1 min 0 s", cut)
        self.assertNotIn("from behind", cut)
        closed = of(back_access="closed")
        self.assertIn("Cut the seam out", text(repair(closed, "sugar")))
        for made in (sheet, tube):
            self.assertIn("Never weld over it", repair(made, "sugar").limit.text())
        self.assertIn("flush and smooth", text(repair(of(service="food"), "sugar")))
        self.assertNotIn("flush and smooth", text(repair(sheet, "sugar")))

    def test_no_crack_is_welded_over(self) -> None:
        for flaw in ("crater-crack", "crack-centreline", "crack-toe", "crack-tack"):
            found = text(repair(of(), flaw)).lower()
            self.assertRegex(found, r"grind (the|it)|ground", flaw)
            self.assertIn("out", found)
        for flaw in ("crater-crack", "crack-centreline", "crack-tack"):
            self.assertIn("Never weld over a crack", text(repair(of(), flaw)))

    def test_second_purge_of_a_purged_part(self) -> None:
        tube = plan("tube-butt", samples.tube(), length="all-round")
        for flaw in ("hole", "tacks-cracked", "undercut", "touched", "crater-crack", "restart"):
            self.assertRegex(text(repair(tube, flaw)), r"urge again for 1 min 0 s")
            self.assertNotIn("urge again", text(repair(of(), flaw)))

    def test_a_metal_that_hardens_is_preheated(self) -> None:
        hard = plan("butt", member("4130", "1.5 mm"), length="100 mm")
        thick = plan("butt", member("4130", "3 mm"), length="100 mm")
        for flaw in ("crack-toe", "undercut", "tacks-cracked", "pores"):
            self.assertIn("Preheat to 50 °C to 90 °C", text(repair(hard, flaw)))
            self.assertIn("Preheat to 150 °C to 200 °C", text(repair(thick, flaw)))
            self.assertNotIn("Preheat", text(repair(of(), flaw)))

    def test_figures(self) -> None:
        """Margins in thicknesses, at least 3 mm; a hole up to 3 t; currents by share: estimates."""
        made = of()
        steady = made.current.steady_a
        for flaw, share, margin in (
            ("hole", 0.75, "3 mm"),
            ("undercut", 0.85, "3 mm"),
            ("crater-crack", 0.9, "4.5 mm"),
            ("restart", 1.0, "6 mm"),
            ("cold", 1.05, None),
            ("too-hot", 0.8, None),
        ):
            found = text(repair(made, flaw))
            self.assertIn(f"{Quantity(share * steady, 'current').text()} at the arc", found, flaw)
            if margin:
                self.assertIn(margin, found, flaw)
        self.assertIn("4.5 mm", repair(made, "hole").limit.text())
        self.assertIn("ER308L of 1", text(repair(made, "hole")))
        self.assertIn("10 mm onto the bead", text(repair(made, "hole")))
        tack = text(repair(made, "crack-tack"))
        self.assertIn(f"a tack of {Quantity(1.5 * made.tacks.length_mm, 'size').text()}", tack)
        self.assertIn(f"{made.tacks.current_a:.0f} A", tack)

    def test_limits_of_iso_5817(self) -> None:
        """ISO 5817 for 0.5 to 3 mm, from memory.

        Undercut 0.1 t (level C), step 0.2 mm + 0.1 t and height 1 mm + 0.1 b (level B).
        """
        made = of()
        self.assertIn("0.15 mm", repair(made, "undercut").limit.text())
        self.assertIn("0.35 mm", repair(made, "misaligned").limit.text())
        height = 1 + 0.1 * made.travel.pool_width_mm
        self.assertIn(f"{height:.2f}".rstrip("0"), repair(made, "reinforcement-high").limit.text())

    def test_a_plan_without_rod_repairs_with_the_rod_of_the_chart(self) -> None:
        bare = of(filler="none")
        self.assertIn("Add ER308L", text(repair(bare, "hole")))

    def test_length_from_the_recorded_place(self) -> None:
        made = of()
        for place, length in (
            ([0.4, 0.5], 10 + 2 * 3),
            ([0.0, 0.1], 10 + 3),
            ([0.0, 1.0], 100),
            ("stops", None),
        ):
            found = repair(made, "undercut", seen={"where": {"undercut": place}})
            if length is None:
                self.assertIsNone(found.length_mm)
            else:
                self.assertAlmostEqual(found.length_mm or 0.0, length)
        root = repair(made, "sugar", seen={"where": {"back": [0.2, 0.3]}})
        self.assertAlmostEqual(root.length_mm or 0.0, 10 + 2 * 6)

    def test_number_of_repairs_at_one_place(self) -> None:
        for made, allowed in (
            (of(), 2),
            (of(service="wet"), 2),
            (of(service="food"), 1),
            (of(a=member("2205", "1.5 mm"), filler="auto"), 1),
            (of(a=member("304", "1.5 mm"), filler="auto", service="dry"), 2),
            (of(a=member("430", "1.5 mm"), filler="auto", service="wet"), 1),
            (of(a=member("430", "1.5 mm"), filler="auto", service="dry"), 2),
            (plan("butt", member("4130", "1.5 mm"), length="100 mm"), 1),
        ):
            self.assertEqual(count_allowed(made)[0], allowed, made.joint)

    def test_state_follows_the_recorded_repairs(self) -> None:
        made = of()
        for results, state in (
            ((), "repair"),
            (("sound",), "last"),
            (("sound", "not-sound"), "scrap"),
            (("scrap",), "scrap"),
        ):
            found = repair(made, "hole", repairs=recorded("hole", *results))
            self.assertEqual((found.state, found.done), (state, len(results)))
        other = repair(made, "hole", repairs=recorded("undercut", "sound", "sound"))
        self.assertEqual(other.state, "repair")
        self.assertEqual(repair(of(service="food"), "hole").state, "last")

    def test_repairs_count_by_place(self) -> None:
        """Repairs within 10 mm are one place (estimate); one without a place counts everywhere."""
        made = of()
        for places, where, done in (
            ((20.0, 80.0), None, 1),
            ((20.0, 30.0), None, 2),
            ((20.0, 30.1), None, 1),
            ((None, 80.0), None, 2),
            ((20.0, 80.0), [0.75, 0.85], 1),
            ((20.0, 80.0), [0.4, 0.5], 0),
            ((20.0, None), [0.4, 0.5], 1),
        ):
            repairs = [item for at in places for item in recorded("hole", "sound", at_mm=at)]
            more = {} if where is None else {"seen": {"where": {"hole": where}}}
            clean = [{k: v for k, v in item.items() if v is not None} for item in repairs]
            found = repair(made, "hole", repairs=clean, **more)
            self.assertEqual(found.done, done, (places, where))

    def test_warning_of_each_state(self) -> None:
        made = of()
        for results, words in (
            ((), None),
            (("sound",), "last repair"),
            (("sound", "sound"), "repaired 2 times, the maximum"),
            (("scrap",), "was scrapped"),
        ):
            warning = repair(made, "hole", repairs=recorded("hole", *results)).warning
            if words is None:
                self.assertIsNone(warning)
            else:
                assert warning is not None
                self.assertIn(words, warning.text())
        food = repair(of(service="food"), "hole", repairs=recorded("hole", "sound")).warning
        assert food is not None
        self.assertIn("repaired once, the maximum", food.text())

    def test_evidence_of_every_figure(self) -> None:
        for flaw in list_repairable():
            marks = [why.mark for why in repair(of(), flaw).why]
            published = ["published"] * (flaw in ("undercut", "misaligned", "reinforcement-high"))
            self.assertEqual(marks, ["common-practice", "estimate", *published], flaw)

    def test_no_pickling_on_ferritic_and_carbon_steel(self) -> None:
        self.assertIn("then pickle", text(repair(of(), "rust")))
        ferritic = of(a=member("430", "1.5 mm"), filler="auto")
        self.assertIn("without pickling paste", text(repair(ferritic, "rust")))
