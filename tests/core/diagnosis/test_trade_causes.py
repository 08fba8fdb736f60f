"""Causes and changes of the trade: handbook, section 12; common practice, no source.

Each row has a run, its first cause and change, and what must not be proposed.
"""

from __future__ import annotations

import unittest
from typing import Any

from tests import samples
from tests.core.diagnosis.cases import FLANGE, of, said
from tests.core.diagnosis.test_simulated_welders import plans
from tests.samples import member, plan, typed
from wisearc.core import catalogue
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.changes import Change, list_changes
from wisearc.core.diagnosis.diagnosis import Before, Reading
from wisearc.core.diagnosis.signs import list_signs
from wisearc.core.plan.plan import Plan
from wisearc.core.quantities import Quantity
from wisearc.core.run.quality import Observed, judge_quality
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.plan_lines import plan_lines

REPORTABLE = (
    "root-unfused",
    "root-sagged",
    "root-sucked-back",
    "crack-centreline",
    "crack-toe",
    "crack-tack",
    "tungsten-dark",
    "arc-wander",
    "misaligned",
    "reinforcement-high",
)
START, END, ALL = [0.0, 0.2], [0.85, 1.0], [0.0, 1.0]


def sugar(place: list[float], **more: Any) -> dict[str, Any]:
    """Return the parts of a run with an oxidised root at a place."""
    return {"back": {"colour": "sugar"}, "seen": {"where": {"back": place}}, **more}


def answered(**answers: bool) -> dict[str, Any]:
    """Return the parts of a run with answers, by _ for -."""
    return {"seen": {"told": {key.replace("_", "-"): value for key, value in answers.items()}}}


def first(found: Reading) -> tuple[str, str]:
    """Return the first cause and the one change."""
    return found.causes[0].cause.key, found.change.code if found.change else ""


class TradeCauses(unittest.TestCase):
    def test_every_reportable_flaw_is_not_good_and_has_a_cause_and_a_change(self) -> None:
        purged = plan(**FLANGE)
        for flaw in REPORTABLE:
            with self.subTest(flaw=flaw):
                quality = judge_quality(
                    Observed("silver", "silver", (flaw,)), stainless=True, in_liquid=False
                )
                self.assertEqual(quality.verdict, "not-good")
                self.assertIn(catalogue.load_flaws()[flaw], quality.reason.text().lower())
                found = said(purged, (flaw,))
                self.assertTrue(found.causes, flaw)
                self.assertIsNotNone(found.change, flaw)

    def test_first_cause_and_change(self) -> None:
        butt, purged = of(), plan(**FLANGE)
        ferritic = of(a=member("430", "1.5 mm"), filler="auto")
        chromoly = plan("butt", member("4130", "1.5 mm"), length="100 mm")
        tube = plan("tube-butt", samples.tube(), length="all-round")
        rows: tuple[tuple[Plan, tuple[str, ...], dict[str, Any], str, str], ...] = (
            (butt, ("root-unfused",), {}, "heat-low", "amps-up"),
            (butt, ("root-sagged",), {}, "heat-high", "amps-down"),
            (purged, ("root-sucked-back",), {}, "purge-pressure", "open-the-vent"),
            (butt, ("crack-centreline",), {}, "hot-short", "wider-pool"),
            (
                butt,
                ("crack-centreline",),
                {"used": {"rod": "ER316L"}},
                "hot-short",
                "rod-as-planned",
            ),
            (chromoly, ("crack-toe",), {}, "hard-zone", "preheat"),
            (butt, ("crack-tack",), {}, "tacks-few", "tacks-closer"),
            (tube, ("tacks-cracked",), {}, "tacks-few", "tacks-more-round"),
            (butt, ("tungsten-dark",), {}, "tungsten-in-air", "postflow-longer"),
            (butt, ("arc-wander",), {}, "tungsten-worn", "regrind"),
            (ferritic, ("arc-wander",), answered(leans=True), "magnetised", "work-clamp"),
            (butt, ("arc-wander",), answered(leans=True), "tungsten-worn", "regrind"),
            (butt, ("misaligned",), {}, "fit-poor", "refit-edges"),
            (butt, ("reinforcement-high",), {}, "bead-heavy", "less-rod"),
            (butt, ("pores",), answered(dirty=False, spot_grey=True), "gas-path", "check-gas-path"),
            (
                butt,
                ("pores",),
                answered(dirty=False, spot_grey=False, damp_rod=True),
                "damp-rod",
                "dry-rod",
            ),
            (butt, ("pores",), answered(dirty=True), "dirty", "clean"),
            (of(a=member("409", "1.5 mm"), filler="auto"), ("rust",), {}, "rusts-by-nature", ""),
            (butt, ("rust",), answered(tint_left=True), "tint-left", "remove-tint"),
            (purged, (), sugar(START), "purge-early", "wait-for-the-volumes"),
            (
                purged,
                (),
                sugar(START, purge={"at_arc_ppm": 900, "target_ppm": 50}),
                "purge-early",
                "wait-for-the-meter",
            ),
            (purged, (), sugar(END), "purge-closed", "keep-closing-flow"),
            (purged, (), sugar(ALL), "purge-thin", "seal-the-gap"),
        )
        for made, faults, more, cause, change in rows:
            with self.subTest(faults=faults, **more):
                found = said(made, faults, **more)
                self.assertEqual(first(found), (cause, change or first(found)[1]))

    def test_grey_all_along_asks_for_the_spot_test(self) -> None:
        made, grey = of(), {"where": {"grey": ALL}, "told": {"draught": False}}
        found = said(made, ("grey",), seen=grey)
        self.assertIn("gas-path", [ranked.cause.key for ranked in found.causes])
        assert found.question is not None
        self.assertEqual(found.question.sign, "spot-grey")
        for answer, cause in ((True, "gas-path"), (False, "cover-small")):
            told = {**grey, "told": {**grey["told"], "spot-grey": answer, "far-out": not answer}}
            self.assertEqual(said(made, ("grey",), seen=told).causes[0].cause.key, cause)

    def test_undercut_with_more_current_than_planned_goes_back_to_the_plan(self) -> None:
        made = of()
        dial = made.slopes.machine_a
        found = said(made, ("undercut",), set={"current_a": round(1.33 * dial)})
        self.assertEqual(first(found), ("heat-high", "set-as-planned"))
        assert found.change is not None
        self.assertEqual(found.change.move.after, dial)
        changes = [found.change.code, *(change.code for change in found.also)]
        self.assertNotEqual(changes[0], "smaller-bead")
        as_planned = said(made, ("undercut",))
        assert as_planned.change is not None
        self.assertNotIn(as_planned.change.code, ("set-as-planned", "smaller-bead"))

    def test_undercut_never_starts_with_a_smaller_leg(self) -> None:
        tee = plan("tee", member(), filler="ER308L", leg="2 mm")
        for more in ({}, answered(starved=True), {"arc": {"by": "timer", "touched": 0}}):
            found = said(tee, ("undercut",), **more)
            assert found.change is not None
            self.assertNotEqual(found.change.code, "smaller-bead")

    def test_keyhole_asks_for_current_first_and_the_pool_second(self) -> None:
        made = of()
        one = said(made, ("keyhole",))
        assert one.change is not None
        self.assertEqual(one.change.code, "amps-up")
        before = (Before("root-cold", "amps-up", "current", 50.0, 54.0, True),)
        two = said(made, ("keyhole",), before)
        assert two.change is not None
        self.assertEqual(two.change.code, "wait-for-the-pool")
        less = round(0.8 * made.slopes.machine_a)
        low = said(made, ("keyhole",), set={"current_a": less})
        assert low.change is not None
        self.assertEqual(low.change.code, "set-as-planned")

    def test_a_return_to_the_plan_helps(self) -> None:
        """Cold edges with too much current never ask for less, and the other way round."""
        made = of()
        for faults, share in ((("cold",), 1.3), (("too-hot",), 0.75)):
            found = said(made, faults, set={"current_a": round(share * made.slopes.machine_a)})
            changes = [c.code for c in (found.change, *found.also) if c]
            self.assertNotIn("set-as-planned", changes)

    def test_recorded_purge_flow_is_corrected_before_the_vent(self) -> None:
        purged = plan(**FLANGE)
        assert purged.back.purge is not None
        planned = purged.back.purge.weld_flow_l_min
        for share, code in ((0.7, True), (0.8, False), (1.2, False), (1.3, True), (2.5, True)):
            meter = {"at_arc_ppm": 40, "target_ppm": 50, "weld_l_min": share * planned}
            found = said(purged, (), **sugar(ALL, purge=meter))
            assert found.change is not None
            self.assertEqual(found.change.code == "purge-flow-as-planned", code, share)

    def test_less_purge_flow_by_a_third_and_not_below_the_closing_flow(self) -> None:
        for flow, after in ((6.0, 4.0), (3.0, 2.0), (2.0, 1.5), (1.5, None)):
            made = plan(**FLANGE, pins={"purge_l_min": flow})
            run = typed(
                samples.run(dict(made.joint), good=False, faults=["root-sucked-back"], purge=None)
            )
            actual = Actual(made, run, ASSUMED)
            moves = [
                change.move.after
                for change in list_changes("purge-pressure", actual, list_signs(actual))
                if isinstance(change, Change) and change.code == "less-purge-flow"
            ]
            self.assertEqual(moves, [] if after is None else [after])

    def test_keyhole_over_a_wide_gap_is_refitted(self) -> None:
        found = said(of(), ("keyhole",), used={"gap_mm": 0.8})
        self.assertEqual(first(found), ("gap", "refit"))

    def test_toe_crack_of_a_metal_that_does_not_harden_is_no_hard_zone(self) -> None:
        self.assertNotEqual(first(said(of(), ("crack-toe",)))[0], "hard-zone")

    def test_tacks_of_a_tube_stay_in_pairs(self) -> None:
        for diameter, count in (("25 mm", 6), ("51 mm", 10)):
            made = plan("tube-butt", samples.tube(diameter=diameter), length="all-round")
            found = said(made, ("tacks-cracked",))
            assert found.change is not None
            self.assertEqual(found.change.move.after, count)
            longer = Quantity(1.5 * made.tacks.length_mm, "size").text()
            self.assertIn(f"each {longer} long", found.change.words.text())

    def test_question_supports_one_of_its_causes(self) -> None:
        """A question whose “yes” only weakens both causes separates nothing."""
        made = of()
        found = said(made, ("undercut",), set={"current_a": round(1.33 * made.slopes.machine_a)})
        self.assertIsNone(found.question)

    def test_wobble_with_a_long_stickout_shortens_it_first(self) -> None:
        made = of()
        found = said(made, ("wobble",), **answered(far_out=True))
        self.assertEqual(first(found), ("gas-high", "stickout-as-planned"))
        assert found.change is not None
        self.assertEqual(found.change.move.after, made.torch.stickout_mm)
        # Without a long stick-out, the flow comes first.
        near = said(made, ("wobble",), **answered(far_out=False))
        self.assertEqual(first(near), ("gas-high", "flow-down"))

    def test_no_pickling_where_paste_attacks_the_metal(self) -> None:
        for metal, pickled in (("304L", True), ("430", False), ("409", False)):
            made = of(a=member(metal, "1.5 mm"), filler="auto")
            run = typed(samples.run(dict(made.joint), good=False, faults=["rust"]))
            actual = Actual(made, run, ASSUMED)
            signs = list_signs(actual)
            for cause in ("iron", "tint-left"):
                texts = [change.words.text() for change in list_changes(cause, actual, signs)]
                self.assertTrue(texts)
                for text in texts:
                    found = "pickle" in text and "without pickling" not in text
                    self.assertEqual(found, pickled, (metal, text))

    def test_large_tungsten_by_its_current(self) -> None:
        large = of(a=member(thickness="0.5 mm"), filler="none", pins={"tungsten_mm": 3.2})
        self.assertEqual(
            first(said(large, ("arc-wander",))), ("tungsten-large", "smaller-tungsten")
        )
        self.assertNotEqual(first(said(of(), ("arc-wander",)))[0], "tungsten-large")

    def test_change_of_current_by_the_dial(self) -> None:
        """With a pedal the dial has headroom over the current at the arc: the text has both."""
        for more in ({"control": "pedal"}, {"control": "none"}):
            made = of(pulse="none", **more)
            found = said(made, ("cold",))
            assert isinstance(found.change, Change)
            assert found.change.plan is not None
            text = found.change.words.text()
            dial = [Quantity(a, "current").text() for a in _list_dials(made, found.change.plan)]
            arc = [
                Quantity(p.current.steady_a, "current").text() for p in (made, found.change.plan)
            ]
            self.assertIn(f"Current on the dial {dial[0]} → {dial[1]}", text)
            self.assertEqual(f"{arc[0]} → {arc[1]} at the arc" in text, dial != arc)
            self.assertNotEqual(*dial)

    def test_current_read_off_goes_back_to_the_plan(self) -> None:
        """The dial was as planned, but the reading was a third higher."""
        made = of()
        mean = made.slopes.mean_a
        found = said(made, ("too-hot",), measured={"read_off_a": round(1.33 * mean)})
        assert found.change is not None
        self.assertEqual(found.change.code, "set-as-planned")
        self.assertIn("read off while welding", found.change.words.text())
        self.assertEqual((found.change.move.after, found.told["amps-over"].by), (mean, "read"))

    def test_step_starts_from_the_current_of_the_run(self) -> None:
        """A run that was cold at 20 % more than planned goes up from there."""
        made = of(pulse="none", control="none")
        run = said(made, ("cold",), set={"current_a": round(1.2 * made.slopes.machine_a)})
        assert run.change is not None
        self.assertEqual(run.change.code, "amps-up")
        self.assertAlmostEqual(
            run.change.move.before, 1.2 * made.current.steady_a, delta=0.02 * made.current.steady_a
        )
        self.assertGreater(run.change.move.after, run.change.move.before)


def _list_dials(*plans: Plan) -> list[float]:
    return [made.slopes.machine_a for made in plans]


class EveryChange(unittest.TestCase):
    def test_every_change_alters_something(self) -> None:
        """Start and end differ as displayed, and a change of the plan alters a displayed figure."""
        checked = 0
        for made in plans():
            run = typed(samples.run(dict(made.joint), good=False, faults=list(REPORTABLE)))
            actual = Actual(made, run, ASSUMED)
            signs = list_signs(actual)
            for cause in catalogue.load_causes():
                for change in list_changes(cause, actual, signs):
                    if not isinstance(change, Change):
                        continue
                    move = change.move
                    if move.before != "":
                        ends = [_display(end, move.quantity) for end in (move.before, move.after)]
                        self.assertNotEqual(*ends, (change.code, made.joint))
                    if change.plan is not None:
                        self.assertNotEqual(
                            [(line.what, line.detail) for line in plan_lines(made)],
                            [(line.what, line.detail) for line in plan_lines(change.plan)],
                            (change.code, made.joint),
                        )
                    checked += 1
        self.assertGreater(checked, 1000)


def _display(end: Any, quantity: str) -> tuple[str, str]:
    if isinstance(end, str) or quantity == "word":
        return str(end), str(end)
    figure = Quantity(end, quantity)
    return figure.text(), figure.text("in")
