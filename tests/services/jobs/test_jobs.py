"""Saved jobs: created, imported, changed by two users at once, undone, ticked; seams as typed."""

from __future__ import annotations

import json
from typing import Any

from tests.jobs import CORNER, FOUR_SEAMS, seam
from tests.samples import run, typed
from tests.store_case import StoreCase
from wisearc.core.errors import InputError
from wisearc.core.jobs.job import Job, run_named
from wisearc.core.jobs.job_data import make_job
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.forms import jobs as job_form
from wisearc.presenters import jobs as job_view
from wisearc.presenters.job_bench import build_shopping_list, build_warp_rows, describe_measured_bow
from wisearc.services.background import Background
from wisearc.services.errors import Missing, NotAllowed
from wisearc.services.jobs import job_plans, jobs
from wisearc.services.jobs.job_changes import Change, read_change
from wisearc.services.jobs.order_searches import Searches
from wisearc.services.procedures import book, procedures
from wisearc.services.runs import runs


class Kept(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.row = jobs.begin("Mast", job=make_job(FOUR_SEAMS))
        self.searches = Searches(Background())
        self.addCleanup(self.searches.close)

    def edit(self) -> int:
        return int(jobs.find(self.row.id).edit)

    def view(self, number: int = 0) -> job_view.JobView:
        return job_view.build_job_view(
            jobs.find(number or self.row.id), ASSUMED, self.searches, "mm"
        )

    def change(
        self, seen: int | None = None, who: str = "", order: tuple[str, ...] = (), **what: Any
    ) -> Any:
        edit = self.edit() if seen is None else seen
        made = read_change({key.rstrip("_"): value for key, value in what.items()})
        return jobs.change(self.row.id, made, edit, who, order)

    def job(self) -> Job:
        return jobs.read_saved_job(jobs.find(self.row.id))

    def data(self) -> dict[str, Any]:
        return dict(jobs.find(self.row.id).data)

    def test_a_form_sent_twice_is_one_job(self) -> None:
        one, other = jobs.begin("Box", "tok"), jobs.begin("Box", "tok")
        self.assertEqual(one.id, other.id)
        with self.assertRaises(InputError):
            jobs.begin("  ")
        with self.assertRaises(Missing):
            jobs.find(99)

    def test_file_and_csv_there_and_back(self) -> None:
        text = json.dumps(jobs.write_job(self.row))
        again = jobs.import_job(text.encode(), "mast.json")
        self.assertEqual(make_job(again.data), make_job(self.row.data))
        from wisearc.presenters.job_bench import seams_text

        sheet = jobs.import_job(
            ("\ufeff" + seams_text(make_job(self.row.data))).encode(), "The mast.csv"
        )
        self.assertEqual(
            (make_job(sheet.data).seams, sheet.title), (make_job(self.row.data).seams, "The mast")
        )
        for raw, words in (
            (b"{", "JSON"),
            (b"key,joins,colour\r\na,b,c", "colour"),
            (b"title\r\nx", "key and joins"),
            (b"key,joins,joint\r\na,b; c,joint=nothing", "line 2"),
            (b"key,joins,seen\r\na,b,maybe", "line 2"),
            (b"", "empty"),
        ):
            with self.assertRaises(InputError) as refused:
                jobs.import_job(raw, "x.csv")
            self.assertIn(words, str(refused.exception), raw)

    def test_simultaneous_changes_to_different_fields_are_saved(self) -> None:
        seen = self.edit()
        self.change(
            seen, "R.T.", do="seam", key="c1", set={**self.data()["seams"][0], "face": "left"}
        )
        self.change(
            seen, "M.O.", do="seam", key="c1", set={**FOUR_SEAMS["seams"][0], "side": "middle"}
        )
        self.change(seen, "M.O.", do="move", key="t1", to=0, order=("c1", "c2", "r1", "t1"))
        row = self.data()["seams"][0]
        self.assertEqual(
            (row["face"], row["side"], self.data()["order"][0]), ("left", "middle", "t1")
        )
        self.assertEqual(jobs.list_conflicts(self.row.id), [])

    def test_conflicting_changes_are_both_listed(self) -> None:
        seen, order = self.edit(), ("c1", "c2", "r1", "t1")
        jobs.change(
            self.row.id, read_change({"do": "move", "key": "t1", "to": 0}), seen, "R.T.", order
        )
        jobs.change(
            self.row.id, read_change({"do": "move", "key": "t1", "to": 2}), seen, "M.O.", order
        )
        found = jobs.list_conflicts(self.row.id)
        self.assertEqual(
            [(c.stands.who, c.stands.words, c.other.who, c.other.words) for c in found],
            [("M.O.", "t1 moved to place 3", "R.T.", "t1 moved to place 1")],
        )
        self.assertEqual(self.data()["order"].index("t1"), 2)
        # wrong job, missing change, change without a conflict
        for number, applied in (
            (self.row.id + 1, found[0].stands.id),
            (self.row.id, 9999),
            (self.row.id, found[0].other.id),
        ):
            jobs.settle(number, applied, True, order)
        self.assertEqual(self.data()["order"].index("t1"), 2)
        self.assertEqual(len(jobs.list_conflicts(self.row.id)), 1)
        jobs.settle(self.row.id, found[0].stands.id, True, order)
        self.assertEqual(
            (self.data()["order"].index("t1"), jobs.list_conflicts(self.row.id)), (0, [])
        )
        # Two equal changes are no conflict.
        seen = self.edit()
        for _ in range(2):
            jobs.change(
                self.row.id, read_change({"do": "pin", "key": "c1", "at": "first"}), seen, "R.T."
            )
        self.assertEqual(jobs.list_conflicts(self.row.id), [])

    def test_unpin_seams(self) -> None:
        for key, at, first, last in (
            ("c1", "first", "c1", ""),
            ("t1", "last", "c1", "t1"),
            ("t1", "", "c1", ""),
            ("t1", "last", "c1", "t1"),
            ("c1", "", "", "t1"),
        ):
            self.change(do="pin", key=key, at=at)
            self.assertEqual((self.job().first, self.job().last), (first, last))

    def test_on_a_page_of_before_a_seam_was_taken_out(self) -> None:
        seen = self.edit()
        self.change(do="drop-seam", key="t1")
        with self.assertRaises(InputError) as refused:
            self.change(seen, do="move", key="t1", to=0)
        self.assertIn("no longer in this job", str(refused.exception))
        self.assertEqual([s["key"] for s in self.data()["seams"]], ["c1", "c2", "r1"])

    def test_a_joint_and_a_procedure_set_at_once(self) -> None:
        """The later change is in effect; the other is saved and shown."""
        seen = self.edit()
        number = procedures.keep_draft(make_job(FOUR_SEAMS).seams[0].joint, ASSUMED).procedure.label
        self.change(seen, "R.T.", do="seam", key="c1", set={"procedure": number, "joint": None})
        self.change(
            seen,
            "M.O.",
            do="seam",
            key="c1",
            set={"procedure": None, "joint": jobs.find(self.row.id).data["seams"][2]["joint"]},
        )
        made = make_job(self.data()).seam("c1")
        self.assertEqual((made.procedure, made.joint.kind.key), (None, "edge"))
        self.assertEqual(len(jobs.list_conflicts(self.row.id)), 1)

    def test_undo_step_by_step(self) -> None:
        before = self.data()
        self.change(do="pin", key="c2", at="first")
        self.change(do="seam", key="c1", set={"key": "z9"})
        self.assertEqual(self.data()["seams"][2]["after"], ["z9"])
        self.assertIn("z9", jobs.undo(self.row.id))
        self.assertIn("pinned", jobs.undo(self.row.id))
        self.assertEqual((self.data(), jobs.undo(self.row.id)), (before, ""))

    def test_names_follow(self) -> None:
        self.change(do="part", name="a", set={"note": "bent"})
        self.change(do="rename-part", name="a", to="box")
        self.assertEqual(
            (
                self.data()["parts"][0],
                self.data()["seams"][0]["joins"],
                self.data()["about"]["box"]["note"],
            ),
            ("box", ["box", "b"], "bent"),
        )
        with self.assertRaises(InputError) as refused:
            self.change(do="drop-part", name="box")
        self.assertIn("c1, c2, r1", str(refused.exception))
        self.change(do="add-part", name="spare")
        self.assertEqual(self.view().notices[-1][0], "note")
        self.change(do="part", name="spare", set={"note": "for the lid"})
        self.change(do="drop-part", name="spare")
        self.assertEqual(
            {key: of["note"] for key, of in self.data()["about"].items()}, {"box": "bent"}
        )
        self.change(do="order", order_=["t1", "c1", "c2", "r1"])
        self.change(do="drop-seam", key="c1")
        self.assertEqual((self.job().order, self.job().seams[1].after), (("t1", "c2", "r1"), ()))
        self.change(do="add-seam", seam=seam("n1", CORNER, ("box", "new")))
        self.assertEqual((self.data()["order"][-1], self.data()["parts"][-1]), ("n1", "new"))

    def test_archived_or_finished_job_is_not_changed(self) -> None:
        for revision in ("done", "away"):
            jobs.set_state(self.row.id, revision)
            with self.assertRaises(NotAllowed):
                self.change(do="pin", key="c1", at="first")
            jobs.set_state(self.row.id, "open")
        self.assertEqual([r.id for r in jobs.open_jobs()], [self.row.id])

    def test_the_first_tick_holds_the_order(self) -> None:
        order = self.view().order
        jobs.tick(self.row.id, order[0], 1, True, "R.T.", order)
        self.assertEqual(tuple(self.data()["order"]), order)
        jobs.tick(self.row.id, order[0], 1, True, "R.T.", order)
        self.assertEqual(self.view().done, 1)
        jobs.tick(self.row.id, order[0], 1, False, "R.T.", order)
        self.assertEqual(self.view().done, 0)
        for key, piece in (("zz", 1), ("c1", 2), ("c1", 0)):
            with self.assertRaises(InputError):
                jobs.tick(self.row.id, key, piece, True, "", order)
        jobs.tick(self.row.id, "c1", 1, True, "", order)
        jobs.restart_bench(self.row.id)
        self.assertEqual(jobs.list_ticks(self.row.id), {})

    def test_a_run_goes_to_the_seams_record(self) -> None:
        """A seam with a joint is saved as a draft, with all equal seams of the job.

        The run belongs to its record and is ticked at the bench.
        """
        number, letter = jobs.keep_seam(self.row.id, "c1", ASSUMED)
        procedure_labels = [self.job().seam(key).procedure for key in ("c1", "c2", "r1")]
        self.assertEqual(procedure_labels, [number, number, None])
        self.assertEqual(jobs.keep_seam(self.row.id, "c2", ASSUMED), (number, letter))
        revision = book.find(number, letter)
        made = run(CORNER)
        made["measured"]["bow_mm"] = 1.5
        runs.record_run(number, letter, typed(made))
        self.assertEqual(
            jobs.run_written(run_named(self.row.id, "c1", 1), revision, "R.T."), self.row.id
        )
        rung = next(r for r in self.view().rungs if r.key == "c1")
        self.assertEqual((rung.done, rung.written), (True, True))
        self.assertEqual(describe_measured_bow(number, "mm"), "1 run measured 1.5 mm")
        self.assertIn(
            "1.5 mm", next(w.measured for w in build_warp_rows(self.view(), "mm") if w.key == "c1")
        )
        # The bow sets the next preset, on the page and in the file.
        preset = "clamp it with a bow of 1.5 mm the other way, as measured on the last run"
        page = next(w.counters for w in build_warp_rows(self.view(), "mm") if w.key == "c1")
        data: Any = job_plans.job_plan_as_data(self.view().plan)
        file = next(row["counters"] for row in data["warp"] if row["seam"] == "c1")
        self.assertIn(preset, page[0])
        self.assertIn(preset, file[0]["text"])
        for wrong in ("", "x", "99:c1/1", f"{self.row.id}:zz/1", f"{self.row.id}:c1/7"):
            self.assertIsNone(jobs.run_written(wrong, revision, "R.T."), wrong)

    def test_job_by_a_saved_procedure(self) -> None:
        draft = procedures.keep_draft(make_job(FOUR_SEAMS).seams[0].joint, ASSUMED)
        label = draft.procedure.label
        self.change(do="seam", key="c1", set={"procedure": label, "joint": None})
        self.assertEqual(
            self.view().plan.work.tasks["c1"].plan.title, procedures.get_plan(draft).title
        )
        self.change(do="seam", key="c2", set={"procedure": "P-0999", "joint": None})
        self.assertIn("P-0999", self.view().fault)

    def test_the_procedure_of_a_seam(self) -> None:
        """The named revision, or else the newest."""
        draft = procedures.keep_draft(make_job(FOUR_SEAMS).seams[0].joint, ASSUMED)
        label = draft.procedure.label
        data = {
            key: value for key, value in draft.joint.items() if key not in ("format", "version")
        }
        runs.record_run(label, "A", typed(run(data)))
        procedures.revise(label, make_joint({**data, "finish": "sound"}), ASSUMED)
        for named, letter in ((label, "B"), (f"{label} A", "A"), (f"{label} B", "B")):
            self.change(do="seam", key="c1", set={"procedure": named, "joint": None})
            self.assertEqual(jobs.keep_seam(self.row.id, "c1", ASSUMED), (label, letter))

    def test_materials_of_all_open_jobs(self) -> None:
        other = jobs.begin("Other", job=make_job({**FOUR_SEAMS, "quantity": 2}))
        jobs.begin("Empty")
        items, left = build_shopping_list(ASSUMED, self.searches)
        argon = next(i.need for i in items if i.list == "cylinders")
        own = [
            sum(t.plan.gas.argon_l for t in self.view(n).plan.work.tasks.values())
            for n in (self.row.id, other.id)
        ]
        self.assertAlmostEqual(argon, own[0] + 2 * own[1], delta=0.2)
        self.assertEqual(left, ["Empty"])


class Typed(StoreCase):
    JOB = make_job(FOUR_SEAMS)

    def typed(self, old: str = "", **more: str) -> Change:
        return job_form.parse_seam(
            {
                "key": "n1",
                "joins": "a, b; c",
                "side": "left",
                "seen": "no",
                "after": "c1, c2",
                "free": "3 in",
                "of": "like c1",
                **more,
            },
            self.JOB,
            "mm",
            old,
        )

    def test_a_seam_as_it_is_typed(self) -> None:
        made = self.typed().seam
        self.assertEqual(
            (made["joins"], made["seen"], made["after"], made["free_mm"], made["joint"]["joint"]),
            (["a", "b", "c"], False, ["c1", "c2"], 76.2, "outside-corner"),
        )
        self.assertEqual(self.typed(of="p-0003 b").seam["procedure"], "P-0003 B")
        link = job_view.build_seam_rows(self.JOB, ASSUMED, "mm")[2].link
        self.assertEqual(self.typed(of=f"http://here/?{link}").seam["joint"]["joint"], "edge")
        self.assertEqual(self.typed("c1", of="").kind, "seam")

    def test_refused_by_field(self) -> None:
        for more, field in (
            ({"key": " "}, "key"),
            ({"joins": ""}, "joins"),
            ({"of": ""}, "of"),
            ({"of": "whatever"}, "of"),
            ({"of": "a=b"}, "of"),
            ({"free": "1 mm"}, "free"),
            ({"free": "wide"}, "free"),
        ):
            with self.assertRaises(InputError) as refused:
                self.typed(**more)
            self.assertEqual(refused.exception.field, field, more)
        for form, field in (
            ({"title": ""}, "title"),
            ({"title": "x", "quantity": "many"}, "quantity"),
            ({"title": "x", "dial_s": "9999"}, "dial_s"),
        ):
            with self.assertRaises(InputError) as refused:
                job_form.parse_head(form)
            self.assertEqual(refused.exception.field, field)

    def test_a_part_is_held_within_the_field(self) -> None:
        self.assertEqual(
            job_form.parse_place({"left": "-5", "top": "95", "width": "30", "height": "0.5"}),
            [0, 95, 30, 2],
        )
