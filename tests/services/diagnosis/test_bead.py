"""A bead without a record: its diagnosis, and the run that is saved."""

from __future__ import annotations

from typing import Any

from tests.samples import make_inspection
from tests.store_case import StoreCase
from wisearc.core.diagnosis.diagnosis import diagnose_run
from wisearc.core.errors import InputError
from wisearc.core.run.run import BackFace, FrontFace, Run, Settings
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.diagnosis.bead import BeadView, get_record, judge_bead, save_bead
from wisearc.services.planning.typed_joint import read_typed_joint
from wisearc.store.models import Revision, RunRow

JOINT = "1.5 304L sheet butt 100, no pulse"


def judge(seen: dict[str, Any], current_a: float | None = None, joint: str = JOINT) -> BeadView:
    typed = read_typed_joint(joint, "mm", ASSUMED)
    return judge_bead(typed, make_inspection(seen), current_a, ASSUMED)


class Bead(StoreCase):
    def save(self, view: BeadView, who: str = "R.T.", once: str = "") -> tuple[Revision, int]:
        return save_bead(view, None, who, ASSUMED, once, lambda: "2026-03-04T10:00:00Z")

    def test_judged_as_a_recorded_run(self) -> None:
        """The run is written by hand here, with the colours of its tints."""
        seen = {"front_tint": "blue", "back_tint": "straw", "faults": ["undercut"]}
        view = judge(seen, 90.0)
        written = Run(
            "2026-03-04",
            "R.T.",
            FrontFace("blue"),
            BackFace("straw"),
            False,
            set=Settings(current_a=90.0),
            faults=("undercut",),
            seen=make_inspection(seen),
        )
        self.assertEqual(get_record(view).faults, ("undercut",))
        self.assertEqual(view.reading, diagnose_run(written, view.typed.plan, ASSUMED))
        self.assertNotEqual(view.reading.verdict, "good")
        self.assertTrue(view.reading.causes)
        self.assertIsNone(view.run)

    def test_known_setting_is_evidence(self) -> None:
        """A hole with half as much current again is heat: common practice, no source."""
        seen = {"front_tint": "blue", "back_tint": "blue", "faults": ["hole"]}
        unknown = judge(seen)
        planned_a = unknown.typed.plan.slopes.machine_a
        self.assertIsNone(get_record(unknown).set.current_a)
        heat = [
            {ranked.cause.key: ranked.weight for ranked in view.reading.causes}["heat-high"]
            for view in (judge(seen, planned_a), unknown, judge(seen, 1.5 * planned_a))
        ]
        self.assertEqual(heat, sorted(heat))
        self.assertGreater(heat[2], 0.8)
        self.assertLess(heat[0], 0.3)

    def test_sugar_is_an_oxidised_root(self) -> None:
        sugar = get_record(judge({"front_tint": "straw", "told": {"sugar": True}}))
        self.assertEqual(sugar.back.colour, "sugar")
        clean = get_record(judge({"front_tint": "straw", "told": {"sugar": False}}))
        self.assertEqual((clean.front.colour, clean.back.colour), ("straw", "not-seen"))
        self.assertIsNone(clean.faults)
        self.assertEqual(get_record(judge({"back_tint": "brown"})).back.colour, "brown")

    def test_saved_as_a_run_of_a_new_draft(self) -> None:
        view = judge({"front_tint": "silver", "back_tint": "silver"})
        self.assertEqual(view.reading.verdict, "good")
        revision, number = self.save(view, " R.T. ")
        self.assertEqual((revision.procedure.label, revision.letter), ("P-0001", "A"))
        row = RunRow.get_by_id(number)
        self.assertEqual((row.document.who, row.made_on), ("R.T.", "2026-03-04"))
        self.assertTrue(row.document.as_done)
        # Its settings are not known: it never verifies.
        self.assertFalse(row.good)
        bad = judge({"front_tint": "grey", "back_tint": "silver"})
        self.assertNotEqual(bad.reading.verdict, "good")
        self.assertFalse(RunRow.get_by_id(self.save(bad)[1]).document.as_done)

    def test_saved_once_for_a_form(self) -> None:
        view = judge({"front_tint": "straw"})
        first, again = self.save(view, once="form-1"), self.save(view, once="form-1")
        self.assertEqual(first[1], again[1])
        self.assertEqual(RunRow.select().count(), 1)
        self.save(view)
        self.save(view)
        self.assertEqual(RunRow.select().count(), 3)

    def test_saved_under_the_named_procedure(self) -> None:
        self.save(judge({"front_tint": "straw"}))
        revision, _ = self.save(judge({"front_tint": "blue"}, joint="like P-0001"))
        self.assertEqual(revision.procedure.label, "P-0001")
        self.assertEqual(Revision.select().count(), 1)

    def test_missing_fields_are_named_and_nothing_is_saved(self) -> None:
        for seen, who, field in (
            ({"front_tint": "straw"}, "  ", "who"),
            ({"back_tint": "straw"}, "R.T.", "front_tint"),
        ):
            with self.assertRaises(InputError) as caught:
                self.save(judge(seen), who)
            self.assertEqual(caught.exception.field, field)
        self.assertEqual(RunRow.select().count(), 0)
