"""The diagnosis saved with its run, its change as a draft, and the shop history."""

from __future__ import annotations

from typing import Any

import peewee
from msgspec.structs import replace

from tests import schemas
from tests.samples import make_inspection, member, run, typed
from tests.store_case import StoreCase
from wisearc.core.diagnosis.attempts import find_differences, list_earlier_changes
from wisearc.core.errors import InputError
from wisearc.core.history.shop_history import OwnRecord, OwnRun
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.run.run import get_planned_values
from wisearc.core.shop.shop import ASSUMED, Part, Shop
from wisearc.formats.procedure_json import write_procedure_file
from wisearc.services.diagnosis import diagnosis, history, statistics
from wisearc.services.inventory.shop import load_shop
from wisearc.services.procedures import procedure_files, procedures
from wisearc.services.runs import runs as running
from wisearc.store import queries
from wisearc.store.database import open_transaction
from wisearc.store.errors import Missing, NotAllowed
from wisearc.store.models import Learnt, Revision, RunRow

BUTT = {
    "joint": "butt",
    "members": [member(thickness="1.5 mm")] * 2,
    "length": "100 mm",
    "control": "none",
    "pulse": "none",
}


class Seen(StoreCase):
    def test_sugared_back_of_a_recorded_run(self) -> None:
        for back, told in (("sugar", {"sugar": True}), ("straw", None), ("not-seen", None)):
            with self.subTest(back=back):
                self.assertEqual(
                    diagnosis.build_inspection(typed(run(back={"colour": back}))).told or None, told
                )


class ReadingCase(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        history.WELDER.set("")
        self.addCleanup(history.WELDER.set, "")
        procedures.keep_draft(make_joint(BUTT), ASSUMED)

    def ran(self, letter: str = "A", **more: Any) -> int:
        """Record a run as planned, with changes, and return its number."""
        joint = queries.get_revision("P-0001", letter).joint
        told = run({key: value for key, value in joint.items() if key not in ("format", "version")})
        for key, value in more.items():
            told[key] = {**told.get(key, {}), **value} if isinstance(value, dict) else value
        return int(running.record_run("P-0001", letter, typed(told))[0].id)

    def bad(self, *faults: str, letter: str = "A", **more: Any) -> int:
        return self.ran(letter, good=False, faults=list(faults), **more)

    def read(self, number: int, letter: str = "A", seen: Any = None) -> diagnosis.ReadView:
        return diagnosis.view("P-0001", letter, number, make_inspection(seen), ASSUMED)

    def take(self, number: int, letter: str = "A", once: str = "") -> Revision | None:
        view = self.read(number, letter)
        assert view.reading.change is not None
        return diagnosis.save_change(
            "P-0001", letter, number, view.seen, view.reading.change.code, ASSUMED, once
        )


class Taking(ReadingCase):
    def test_the_change_is_the_next_draft_and_stands_in_the_plan(self) -> None:
        number = self.bad("cold")
        before = procedures.get_plan(queries.get_revision("P-0001"))
        draft = self.take(number)
        assert draft is not None
        after = procedures.get_plan(draft)
        self.assertEqual((draft.letter, draft.status), ("B", "draft"))
        self.assertTrue(1.04 < after.current.steady_a / before.current.steady_a < 1.11)
        # The attempt stays visible, with its run.
        tried = queries.get_revision("P-0001", "A")
        self.assertEqual((tried.status, tried.removed_at), ("draft", None))
        self.assertEqual([r.id for r in queries.list_runs(tried)], [number])
        kept = queries.get_run(queries.get_revision("P-0001", "A"), number).record
        self.assertEqual(
            (kept["reading"]["draft"], kept["reading"]["change"]["key"], kept["seen"]["faults"]),
            ("B", "current", ["cold"]),
        )
        self.assertEqual(kept["reading"]["causes"][0]["code"], "heat-low")

    def test_twice_quickly_is_once(self) -> None:
        number = self.bad("cold")
        first, second = self.take(number, once="x"), self.take(number, once="x")
        self.assertEqual((first and first.letter, second and second.letter), ("B", "B"))
        self.assertEqual(len(queries.list_revisions(queries.get_procedure("P-0001"))), 2)

    def test_verified_procedure_stays_and_gets_a_revision(self) -> None:
        self.ran()
        draft = self.take(self.bad("too-hot"))
        self.assertEqual(
            (
                draft and draft.letter,
                queries.get_revision("P-0001", "A").status,
                queries.get_revision("P-0001", "A").removed_at,
            ),
            ("B", "proved", None),
        )

    def test_a_draft_that_was_not_run_is_in_the_way(self) -> None:
        number = self.bad("cold")
        self.take(number)
        with self.assertRaisesRegex(NotAllowed, "B, which has no run yet"):
            self.take(number)
        self.assertNotIn(
            "C", [r.letter for r in queries.list_revisions(queries.get_procedure("P-0001"))]
        )

    def test_undone(self) -> None:
        number = self.bad("cold")
        self.take(number)
        diagnosis.undo_change("P-0001", "A", number)
        revision = queries.get_revision("P-0001")
        kept = queries.get_run(queries.get_revision("P-0001", "A"), number).record["reading"]
        self.assertEqual(
            (revision.letter, revision.removed_at, kept.get("change"), "draft" in kept),
            ("A", None, None, False),
        )
        self.take(number, once="again")
        self.bad("cold", letter="C")
        with self.assertRaisesRegex(NotAllowed, "A newer run exists"):
            diagnosis.undo_change("P-0001", "A", number)
        with self.assertRaisesRegex(NotAllowed, "A newer run exists"):
            self.take(number)
        # Its inspection can still be corrected, and the change stays.
        diagnosis.save_change(
            "P-0001", "A", number, make_inspection({"faults": ["cold", "pores"]}), "", ASSUMED
        )
        kept = queries.get_run(queries.get_revision("P-0001", "A"), number).record
        self.assertEqual(
            (kept["seen"]["faults"], kept["reading"]["draft"]), (["cold", "pores"], "C")
        )

    def test_run_without_a_diagnosis(self) -> None:
        number = self.bad("cold")
        diagnosis.undo_change("P-0001", "A", number)
        self.assertEqual(queries.get_revision("P-0001").letter, "A")

    def test_draft_with_a_run(self) -> None:
        number = self.bad("cold")
        self.take(number)
        self.bad("cold", letter="B")
        with self.assertRaisesRegex(NotAllowed, "P-0001 B now has a run"):
            procedures.undo_attempt("P-0001", "B", "A")

    def test_draft_that_an_earlier_version_removed(self) -> None:
        number = self.bad("cold")
        self.take(number)
        with open_transaction():
            Revision.update(removed_at="2026-03-04T08:00").where(Revision.letter == "A").execute()
        procedures.undo_attempt("P-0001", "B", "A")
        self.assertEqual(queries.get_revision("P-0001").letter, "A")

    def test_technique_changes_make_no_draft(self) -> None:
        number = self.bad("restart")
        self.assertIsNone(self.take(number))
        self.assertEqual(queries.get_revision("P-0001").letter, "A")
        told = diagnosis.find_saved_change(queries.get_revision("P-0001"))
        self.assertIn("crater", str(told and told.text))
        # the change is for the next run alone
        self.bad("cold")
        self.assertIsNone(diagnosis.find_saved_change(queries.get_revision("P-0001")))

    def test_another_change_by_now(self) -> None:
        number = self.bad("restart")
        with self.assertRaisesRegex(NotAllowed, "The diagnosis has changed"):
            diagnosis.save_change(
                "P-0001",
                "A",
                number,
                make_inspection({"faults": ["cold"]}),
                "restart-warm",
                ASSUMED,
            )
        self.assertNotIn("reading", queries.get_run(queries.get_revision("P-0001"), number).record)

    def test_bad_input_keeps_nothing(self) -> None:
        number = self.bad("restart")
        for seen in (
            {"faults": ["nothing"]},
            {"where": {"restart": [0.5, 2]}},
            {"told": {"draught": "yes"}},
            {"band_mm": 1e9},
            {"colour": "red"},
        ):
            with self.subTest(seen=seen), self.assertRaises(InputError):
                diagnosis.save_change("P-0001", "A", number, make_inspection(seen), "", ASSUMED)
        self.assertNotIn("seen", queries.get_run(queries.get_revision("P-0001"), number).record)
        running.void_run("P-0001", "A", number, "R.T.")
        with self.assertRaisesRegex(NotAllowed, "void"):
            diagnosis.save_change("P-0001", "A", number, make_inspection({}), "", ASSUMED)


class OneThingAtATime(ReadingCase):
    """A saved plan in a shop that changed since: history and stock."""

    def shop(self) -> Shop:
        class Moved:
            def like(self, family: str, metals: str, machine: str) -> OwnRecord:
                runs = tuple(OwnRun(i, "P-0001 A", "2026-03-04", "", "RT", 0.15) for i in range(5))
                return OwnRecord(1.16, 0.04, 0.05, None, None, runs)

        cups = [
            Part(kind="cup", family="large", cup=12, fits="gas-lens"),
            Part(kind="gas-lens", family="large", tungsten_mm=1.6),
        ]
        return replace(
            ASSUMED,
            own=Moved(),
            parts=(
                *cups,
                *(Part(kind=k, family="large", tungsten_mm=1.6) for k in ("collet", "collet-body")),
            ),
        )

    def differences(self, before: Plan, after: Plan) -> set[str]:
        return {
            key
            for key, value in get_planned_values(before).items()
            if get_planned_values(after).get(key) != value
        } | (
            {"travel"} if abs(before.travel.speed_mm_s - after.travel.speed_mm_s) > 0.02 else set()
        )

    def test_the_rest_is_held_as_it_was(self) -> None:
        before, shop = procedures.get_plan(queries.get_revision("P-0001")), self.shop()
        today = make_plan(make_joint(BUTT), shop)
        # today's plan is another in current and cup at least
        self.assertLessEqual({"set.current_a", "used.cup"}, self.differences(before, today))
        number = self.bad("grey", seen={"where": {"grey": "stops"}})
        view = diagnosis.view("P-0001", "A", number, None, shop)
        change = view.reading.change
        assert change is not None
        self.assertEqual(change.code, "postflow-longer")
        draft = diagnosis.save_change("P-0001", "A", number, view.seen, change.code, shop)
        assert draft is not None
        self.assertEqual(self.differences(before, procedures.get_plan(draft)), {"set.postflow_s"})
        self.assertIn("As in the planned run", change.said)
        self.assertIn("current from the rule of thumb", change.said)
        kept = queries.get_run(queries.get_revision("P-0001", "A"), number).record["reading"][
            "change"
        ]
        self.assertEqual(kept["sets"]["own_record"], "bench")

    def test_where_nothing_moved_nothing_is_held(self) -> None:
        view = self.read(self.bad("grey", seen={"where": {"grey": "stops"}}))
        change = view.reading.change
        assert change is not None
        self.assertEqual((change.said, set(change.sets)), ("", {"pins.postflow_s"}))

    def test_a_joint_of_another_version_is_read_and_taken_in(self) -> None:
        number = self.bad("cold", front={"colour": "blue"})
        file = write_procedure_file(procedure_files.build_file(queries.get_revision("P-0001")))
        for joint in (file["joint"], file["plan"]["joint"]):
            joint["members"] = [{**m, "metal": "later-grade"} for m in joint["members"]]
        self.other_shop()
        taken, _ = procedure_files.import_procedure(file)
        self.assertEqual([row.family for row in Learnt.select()], ["in-line~2"])
        row = queries.list_runs(taken)[0]
        view = diagnosis.view(taken.procedure.label, taken.letter, row.id, None, ASSUMED)
        self.assertEqual(
            (view.reading.verdict, view.reading.causes[0].cause.key), ("not-good", "heat-low")
        )
        self.assertTrue(view.reading.change is None or not view.reading.change.move.sets)
        self.assertTrue(number)


class KeptWithTheRun(ReadingCase):
    def test_nothing_that_was_written_down_is_changed_by_it(self) -> None:
        number = self.bad("cold", notes="as it was")
        before = dict(queries.get_run(queries.get_revision("P-0001"), number).record)
        diagnosis.save_change(
            "P-0001", "A", number, make_inspection({"faults": ["hole"]}), "", ASSUMED
        )
        kept = queries.get_run(queries.get_revision("P-0001"), number)
        self.assertEqual(
            {k: v for k, v in kept.record.items() if k not in ("seen", "reading")}, before
        )
        self.assertEqual(kept.corrections, [])
        kept.record = {**kept.record, "notes": "another"}
        with self.assertRaisesRegex(peewee.IntegrityError, "only with what it said before"):
            kept.save(only=[RunRow.record])

    def test_a_correction_leaves_it_and_a_file_carries_it(self) -> None:
        number = self.bad("restart", notes="")
        self.take(number)
        record = queries.get_run(queries.get_revision("P-0001"), number).record
        corrected = running.correct(
            "P-0001", "A", number, typed({**record, "notes": "put right"}), "R.T."
        )
        self.assertEqual(
            (corrected.record["reading"], corrected.record["notes"]),
            (record["reading"], "put right"),
        )
        out = self.ran()
        statistics.exclude_run(out, True)
        file = write_procedure_file(procedure_files.build_file(queries.get_revision("P-0001")))
        schemas.check("procedure", file)
        self.other_shop()
        taken, _ = procedure_files.import_procedure(file)
        self.assertEqual(queries.list_runs(taken)[0].record["reading"], record["reading"])
        self.assertEqual([row.left_out is None for row in queries.list_runs(taken)], [True, False])
        self.assertEqual([row.left_out for row in Learnt.select().order_by(Learnt.run)], [0, 1])
        self.assertEqual(procedure_files.import_procedure(file)[1], "known")


class InARow(ReadingCase):
    def test_recorded_change_and_its_effect(self) -> None:
        first = self.bad("grey", seen={"where": {"grey": "stops"}})
        self.take(first)
        self.ran("B", front={"colour": "straw"})
        row = diagnosis.view(
            "P-0001",
            "B",
            queries.list_runs(queries.get_revision("P-0001", "B"))[0].id,
            None,
            ASSUMED,
        ).attempts
        self.assertEqual(
            [(a.made.letter, a.verdict, a.best) for a in row],
            [("A", "not-good", False), ("B", "good", True)],
        )
        self.assertIn("Post-flow", row[1].change)
        self.assertEqual(row[1].said, "The change fixed it.")

    def test_more_changed_than_that(self) -> None:
        self.take(self.bad("grey", seen={"where": {"grey": "stops"}}))
        b = queries.get_revision("P-0001", "B")
        self.ran("B", set={"flow_l_min": 1.06 * procedures.get_plan(b).gas.flow_l_min})
        row = self.read(queries.list_runs(b)[0].id, "B").attempts
        words = "Fixed, but more than this was changed. Run it once more to be sure."
        self.assertEqual(row[1].said, words)
        # the draft's own post-flow is not more
        self.assertIn(
            "set.postflow_s",
            {
                key
                for key, _ in find_differences(
                    queries.list_runs(queries.get_revision("P-0001", "A"))[0].document,
                    queries.list_runs(b)[0].document,
                )
            },
        )
        self.assertTrue(
            any("argon" in w.text().lower() or "flow" in w.text().lower() for w in row[1].differs)
        )

    def test_unfixed_flaw_counts_against_its_cause(self) -> None:
        first = self.bad("grey")
        self.take(first)
        second = self.bad("grey", letter="B")
        view = self.read(second, "B")
        self.assertEqual(view.attempts[1].said, "The change did not fix it.")
        made = diagnosis.list_runs_in_row(queries.get_revision("P-0001"))
        self.assertEqual(
            [(one.cause, one.again) for one in list_earlier_changes(made)], [("left-early", True)]
        )
        shares = [
            {c.cause.key: c.weight for c in self.read(n, letter).reading.causes}
            for n, letter in ((first, "A"), (second, "B"))
        ]
        self.assertLess(shares[1]["left-early"], shares[0]["left-early"] - 0.1)

    def test_opposite_of_the_last_change_goes_half_way(self) -> None:
        first = self.bad("cold")
        self.take(first)
        view = self.read(self.bad("too-hot", letter="B"), "B")
        change = view.reading.change
        assert change is not None
        tried = queries.get_run(queries.get_revision("P-0001", "A"), first).record["reading"][
            "change"
        ]
        self.assertIn("reverses the last change", change.said)
        self.assertTrue(tried["from"] < change.move.after < tried["to"], (tried, change.move))


class HistoryRows(ReadingCase):
    def rows(self) -> list[tuple[int, float, int]]:
        return [(row.run, row.weight, row.left_out) for row in Learnt.select().order_by(Learnt.run)]

    def test_one_row_each_rebuilt_after_a_change(self) -> None:
        good, bad = self.ran(machine="bench"), self.bad("cold")
        self.assertEqual(self.rows(), [(good, 1.0, 0), (bad, 0.0, 0)])
        running.void_run("P-0001", "A", bad, "R.T.")
        self.assertEqual([run for run, *_ in self.rows()], [good])
        running.restore_run("P-0001", "A", bad)
        self.assertEqual(len(self.rows()), 2)
        statistics.exclude_run(good, True)
        self.assertEqual(self.rows()[0], (good, 1.0, 1))
        record = dict(queries.get_run(queries.get_revision("P-0001"), good).record)
        running.correct(
            "P-0001",
            "A",
            good,
            typed(
                {**record, "set": {**record["set"], "postflow_s": record["set"]["postflow_s"] + 1}}
            ),
            "R.T.",
        )
        self.assertGreater(Learnt.get(Learnt.run == good).held, 0.05)
        with self.assertRaises(Missing):
            statistics.exclude_run(99, True)

    def test_a_plan_goes_by_it_from_the_third_run_on(self) -> None:
        dial = procedures.get_plan(queries.get_revision("P-0001")).slopes.machine_a
        joint = make_joint(BUTT)
        steady = [make_plan(joint, load_shop()).current]
        for _ in range(3):
            current = round(1.08 * dial)
            self.ran(set={"current_a": current}, measured={"read_off_a": current}, machine="bench")
            steady.append(make_plan(joint, load_shop()).current)
        self.assertEqual([c.by_record for c in steady], [False, False, False, True])
        self.assertEqual([c.own_runs for c in steady], [None, 1, 2, 3])
        self.assertTrue(1.03 < steady[3].steady_a / steady[0].steady_a < 1.08)
        newest = queries.list_runs(queries.get_revision("P-0001"))[-1].id
        statistics.exclude_run(newest, True)
        self.assertEqual(make_plan(joint, load_shop()).current.by_record, False)
        history.WELDER.set("RT")
        own = make_plan(joint, load_shop()).current
        self.assertLess(own.own_spread_pct or 0, steady[2].own_spread_pct or 0)

    def test_weaknesses_of_one_welder(self) -> None:
        for _ in range(2):
            self.bad("crater-crack")
        for hand, shown in (("R.T.", "R.T."), ("rt", "rt"), ("K.S.", ""), ("", "")):
            view = statistics.view(hand)
            with self.subTest(hand=hand):
                self.assertEqual((view.weak_window, view.runs), (shown, 2))
                self.assertEqual([(n, of) for _, n, of in view.weak], [(2, 2)])

    def test_csv(self) -> None:
        self.ran(machine="=bench")
        lines = statistics.record_csv().split("\r\n")
        self.assertEqual(lines[0].split(",")[:3], ["run", "procedure", "revision"])
        self.assertIn("'=bench", lines[1])
