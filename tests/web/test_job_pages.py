"""Pages of Jobs.

Each page, each action, wrong input at its field with its entry, files, and everything without
script.
"""

from __future__ import annotations

import io
import json
import re
from typing import Any

from tests.jobs import RIM, STAY, job, seam
from tests.web.case import WebCase
from wisearc.core.jobs.job_data import make_job
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.jobs import job_plans, jobs
from wisearc.web.context import get_context

DATA = job(
    seam("c1", side="left"),
    seam("c2", side="right"),
    seam("r1", RIM, after=["c1"]),
    seam("t1", STAY, ("c", "d"), face="bottom"),
)


class Pages(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.number = self.made()

    def made(self, data: dict[str, Any] | None = None) -> int:
        with self.app.test_request_context():
            row = jobs.begin("Mast", job=make_job(data or DATA))
            get_context(self.app).store.close()
        return int(row.id)

    def text(self, path: str = "", code: int = 200) -> str:
        answer = self.client.get(f"/jobs/{self.number}{path}")
        self.assertEqual(answer.status_code, code, path)
        return answer.get_data(as_text=True)

    def act(self, path: str, code: int = 303, **form: str) -> str:
        page = self.client.get(f"/jobs/{self.number}").get_data(as_text=True)
        edit = re.search(r'(?:name="edit" value|data-edit)="(\d+)"', page) or ["", "1"]
        order = re.search(r'name="order" value="([^"]+)"', page)
        known = {"edit": edit[1], "order": order[1] if order else ""}
        answer = self.post(f"/jobs/{self.number}{path}", {**known, **form}, f"/jobs/{self.number}")
        self.assertEqual(answer.status_code, code, (path, form))
        return answer.get_data(as_text=True)

    def order(self) -> list[str]:
        return re.findall(r'id="rung-([^"]+)"', self.text())

    def test_every_page_in_both_unit_systems(self) -> None:
        for habit in ("mm", "in"):
            self.client.set_cookie("habit", habit)
            for path in (
                "",
                "?at=r1",
                "?at=r1&to=1",
                "?way=seam",
                "/seams",
                "/bench",
                "/materials",
                "/distortion",
            ):
                self.assertIn("Mast", self.text(path))
        warp = self.text("/distortion")
        self.assertIn("in runs of 2.36 in", warp)
        self.assertNotRegex(warp, r"[0-9] mm")
        for words in (
            "White, J. D. and Leggatt, R. H.",
            "from memory",
            "F = 0.2 · q/v kN",
            "chip-mark",
        ):
            self.assertIn(words, warp)
        self.assertIn("chip-mark", self.text())
        for path in ("/jobs/", "/jobs/materials"):
            self.assertEqual(self.client.get(path).status_code, 200)
        for number in ("99", "9007199254740991", "99999999999999999999999"):
            self.assertEqual(self.client.get(f"/jobs/{number}").status_code, 404)

    def test_cost_and_broken_rule_of_a_position(self) -> None:
        order = self.order()
        place = order.index("c1") + 1
        words = self.client.get(f"/jobs/{self.number}/try?at=r1&to={place}").get_data(as_text=True)
        self.assertIn("It breaks a rule: c1 must be before r1", words)
        self.assertIn("c1 must be before r1.", self.text("?at=r1"))
        self.assertRegex(self.text("?at=t1"), "The next best is place")

    def test_moved_pinned_and_undone(self) -> None:
        order = self.order()
        self.act("/move", key=order[0], to="4")
        self.assertEqual(self.order()[-1], order[0])
        self.assertIn("set manually", self.text())
        self.act("/undo")
        self.assertEqual(self.order(), order)
        self.act("/pin", key="t1", where="last")
        self.assertEqual(self.order()[-1], "t1")
        self.act("/pin", key="t1", where="first")
        self.assertEqual(self.order()[0], "t1")
        self.act("/move", key="r1", to="1")
        self.assertIn("this sequence is not possible", self.text())
        self.act("/order")
        self.assertNotIn("manual", self.text())
        self.assertIn(
            "form a circle",
            self.act("/pin", 422, key="r1", where="first")
            + self.act("/pin", 422, key="c1", where="last"),
        )

    def test_page_and_command_report_the_same_cost(self) -> None:
        """The items of the page, of its order, against `--orders` of that order.

        One piece of several too.
        """
        for quantity, way in ((1, ""), (3, "?way=one")):
            self.number = self.made({**DATA, "quantity": quantity})
            text = re.search(r"Times in this job, in seconds: (.*?)</p>", self.text(way))[1]
            shown = [float(s) for s in re.findall(r" ([\d.]+)(?: \+| =)", text)]
            (printed,) = job_plans.orders_data(
                make_job(DATA), ASSUMED, [",".join(self.read_order(way))]
            )
            wanted = [
                printed[key]
                for key in ("arc_s", "dial_s", "torch_s", "clamp_s", "wait_s", "balance_s")
            ]
            self.assertEqual(shown, wanted)
            self.assertAlmostEqual(
                float(re.search(r"<b>([\d.]+)</b>", text)[1]), printed["cost_s"], 0
            )

    def read_order(self, way: str) -> list[str]:
        return re.findall(r'id="rung-([^"]+)"', self.text(way))

    def test_invalid_moves_show_a_reason(self) -> None:
        self.assertIn("as a number from 1", self.act("/move", 422, key="c1", to="x"))
        self.assertIn("no longer in this job", self.act("/move", 422, key="zz", to="1"))
        self.assertIn(
            "no longer in this job",
            self.act("/layout", 422, part="zz", left="1", top="1", width="9", height="9"),
        )

    def test_parts_as_json_where_they_are_asked_for(self) -> None:
        form = {
            **self.token(f"/jobs/{self.number}"),
            "key": "t1",
            "to": "1",
            "edit": "1",
            "order": ",".join(self.order()),
        }
        answer = self.client.post(
            f"/jobs/{self.number}/move", data=form, headers={"Accept": "application/json"}
        )
        body = answer.get_json()
        self.assertEqual((answer.status_code, body["told"]), (200, "t1 moved to place 1."))
        # Its cost is not shown after the move.
        self.assertNotIn("costs", body["parts"]["told"])
        self.assertIn("order", body["parts"])
        again = self.client.get(
            f"/jobs/{self.number}",
            headers={
                "Accept": "application/json",
                "X-Have": ",".join(f"{k}:{v}" for k, v in body["have"].items()),
            },
        ).get_json()
        self.assertNotIn("lay", again["parts"])

    def test_two_people_at_once(self) -> None:
        form = {
            **self.token(f"/jobs/{self.number}"),
            "edit": "1",
            "order": ",".join(self.order()),
            "key": "t1",
        }
        self.client.set_cookie("who", "R.T.")
        self.client.post(f"/jobs/{self.number}/move", data={**form, "to": "1"})
        self.client.set_cookie("who", "M.O.")
        self.client.post(f"/jobs/{self.number}/move", data={**form, "to": "3"})
        text = self.text()
        self.assertIn("Two people changed the same entry", text)
        self.assertIn("R.T.: t1 moved to place 1", text)
        stands = re.search(r'name="stands" value="(\d+)"', text)[1]
        self.act("/settle", stands=stands, take="other")
        self.assertEqual(self.order()[0], "t1")
        self.assertNotIn("Two people changed the same entry", self.text())

    def test_entered_seam_by_seam(self) -> None:
        done = self.post("/jobs/new", {"title": "Box"}, "/jobs/")
        self.number = int(re.search(r"/jobs/(\d+)/seams", done.headers["Location"])[1])
        self.assertIn("no seams yet", self.text())
        told = self.act("/seam", 422, key="c1", joins="box", of="nonsense")
        self.assertIn("Joint “nonsense”", told)
        self.assertIn('value="nonsense"', told)
        self.act(
            "/seam",
            key="c1",
            joins="box",
            of="joint=outside-corner&a.thickness=16+ga&length=380+mm",
            title="Corner",
        )
        self.act("/seam", key="c2", joins="box, lid", of="like c1", side="right", after="c1")
        text = self.text("/seams")
        self.assertIn("joins <b>box, lid</b> on the right, top up, visible, after c1", text)
        self.assertEqual(self.order(), ["c1", "c2"])
        told = self.act("/seam", 422, old="c2", key="c2", joins="box", after="c9")
        self.assertIn("After “c9” must be one of c1, c2", told)
        self.assertNotIn("seams[", told.lower())
        self.assertIn(
            "form a circle: c1 before c2 before c1",
            self.act("/seam", 422, old="c1", key="c1", joins="box", after="c2"),
        )
        self.act(
            "/part",
            name="box",
            cuts="2 x sheet 1.2 mm, 380 x 120",
            holes="6.5 at 12, 20",
            to="case",
        )
        self.assertIn("case", self.text("/seams"))
        self.assertIn("hole 6.5 mm", self.text("/materials"))
        self.assertIn("line 1", self.act("/part", 422, name="case", cuts="no list"))
        self.act("/head", title="Case", quantity="3", dial_s="30")
        self.assertIn("× 3", self.text())
        self.assertIn("cut list, all pieces", self.text("/materials").lower())
        self.assertIn("whole number", self.act("/head", 422, title="Case", quantity="1.5"))
        self.act("/seam/out", key="c2")
        self.act("/part", name="", to="spare")
        self.assertIn("No seam joins lid, spare", self.text("/seams"))
        self.act("/part/out", name="spare")

    def test_from_plan_and_from_procedures(self) -> None:
        link = "joint=outside-corner&a.thickness=16+ga&length=380+mm"
        self.assertIn("/jobs/add?link=", self.client.get(f"/?{link}").get_data(as_text=True))
        page = self.client.get("/jobs/add", query_string={"link": link}).get_data(as_text=True)
        self.assertIn("Add to a job", page)
        done = self.post(
            "/jobs/add", {"link": link, "job": str(self.number), "joins": "a, new"}, "/jobs/"
        )
        self.assertIn("#seam-s1", done.headers["Location"])
        self.post("/jobs/add", {"link": link, "job": str(self.number), "instead": "r1"}, "/jobs/")
        made = jobs.read_saved_job(jobs.find(self.number))
        self.assertEqual(
            (made.seam("s1").joins, made.seam("r1").joint.kind.key),
            (("a", "new"), "outside-corner"),
        )
        kept = self.keep(link)
        number = re.search(r"P-\d+", kept)[0]
        self.assertIn(
            "/jobs/add?procedure=", self.client.get(f"{kept}/jobs").get_data(as_text=True)
        )
        self.post(
            "/jobs/add", {"procedure": f"{number} A", "title": "Add", "joins": "x, y"}, "/jobs/"
        )
        self.assertEqual(
            self.post(
                "/jobs/add", {"link": link, "job": str(self.number), "joins": ""}, "/jobs/"
            ).status_code,
            422,
        )
        self.assertEqual(self.client.get("/jobs/add?link=nothing").status_code, 404)

    def test_a_seam_is_run_from_the_bench(self) -> None:
        done = self.post(
            f"/jobs/{self.number}/write", {"key": "c1/1", "to": "run"}, f"/jobs/{self.number}"
        )
        where = done.headers["Location"]
        self.assertIn("/weld/at?what=kept", where)
        self.assertIn(f"job={self.number}", where)
        self.assertEqual(self.client.get(where).status_code, 200)

    def test_at_the_bench_to_the_seams_record(self) -> None:
        order = self.order()
        self.act("/tick", key=f"{order[0]}/1", on="yes")
        self.assertIn("1 of 4 done", self.text("/bench"))
        self.assertEqual(jobs.find(self.number).data["order"], order)
        answer = self.client.post(
            f"/jobs/{self.number}/tick",
            data={**self.token(f"/jobs/{self.number}"), "key": "zz/1", "on": "yes"},
            headers={"Accept": "application/json"},
        )
        self.assertEqual((answer.status_code, "error" in answer.get_json()), (422, True))
        done = self.post(f"/jobs/{self.number}/write", {"key": "c1/1"}, f"/jobs/{self.number}")
        self.assertRegex(
            done.headers["Location"],
            r"/procedures/P-0001/A/runs\?job=\d+(:|%3A)c1(/|%2F)1#write",
        )
        page = self.client.get(done.headers["Location"].replace("#write", "")).get_data(
            as_text=True
        )
        self.assertIn(f'name="job" value="{self.number}:c1/1"', page)
        # A wrong name of a run of a job is refused before the record.
        told = self.run_form(outcome="not-good")
        for name in ("plainword", "1:c1"):
            done = self.post(
                "/procedures/P-0001/A/runs", {**told, "job": name}, "/procedures/P-0001/A/runs"
            )
            self.assertEqual(done.status_code, 422)
            self.assertIn("must be a run of a job, for example", done.get_data(as_text=True))
            for address in ("/weld/at?what=kept:P-0001/A", "/weld/at?what=joint=tee"):
                page = self.client.get(f"{address}&job={name}")
                self.assertEqual(page.status_code, 422)
                self.assertIn("must be a run of a job", page.get_data(as_text=True))
        self.assertIn("1 of 4 done", self.text("/bench"))
        done = self.post(
            "/procedures/P-0001/A/runs",
            {**self.run_form(outcome="not-good"), "job": f"{self.number}:c1/1"},
        )
        self.assertEqual(done.headers["Location"], f"/jobs/{self.number}/bench")
        self.assertIn("Run recorded", self.text("/bench"))
        # what it was called stays with it
        self.act("/anew")
        self.act("/seam", old="r1", key="r1", joins="a, b", title="Front rim")
        self.post(f"/jobs/{self.number}/write", {"key": "r1/1"}, f"/jobs/{self.number}")
        self.assertIn("Front rim", self.text("/seams"))
        self.act("/anew")
        self.assertIn("0 of 4 done", self.text("/bench"))

    def test_files(self) -> None:
        data = json.loads(self.client.get(f"/jobs/{self.number}/job.json").get_data())
        plan = json.loads(self.client.get(f"/jobs/{self.number}/plan.json").get_data())
        self.assertEqual(
            (data["format"], plan["format"], plan["order"]),
            ("wisearc/job", "wisearc/job-plan", self.order()),
        )
        self.assertTrue(
            self.client.get(f"/jobs/{self.number}/seams.csv")
            .get_data(as_text=True)
            .startswith("key,title,joint")
        )
        for path in (f"/jobs/{self.number}/materials.csv", "/jobs/materials.csv"):
            self.assertTrue(
                self.client.get(path).get_data(as_text=True).startswith("list,item,need")
            )
        sent = {
            **self.token("/jobs/"),
            "file": (io.BytesIO(json.dumps(data).encode()), "mast.json"),
        }
        done = self.client.post("/jobs/take", data=sent, content_type="multipart/form-data")
        self.assertEqual(done.status_code, 303)
        sent = {
            **self.token("/jobs/"),
            "file": (
                io.BytesIO(b'{"format": "wisearc/job", "version": 1, "seams": [{}]}'),
                "mast.json",
            ),
        }
        done = self.client.post("/jobs/take", data=sent, content_type="multipart/form-data")
        self.assertEqual(done.status_code, 422)
        self.assertIn("Seams[0].key", done.get_data(as_text=True))

    def test_finish_archive_and_restore(self) -> None:
        self.act("/standing", standing="away")
        self.assertIn("Archived", self.client.get("/jobs/").get_data(as_text=True))
        self.assertIn("archived. Reopen it", self.act("/pin", 409, key="c1", where="first"))
        self.act("/standing", standing="open")
        self.act("/again")
        self.act("/standing", standing="done")
        self.assertIn("Mast (again)", self.client.get("/jobs/").get_data(as_text=True))

    def test_job_reports_a_missing_procedure(self) -> None:
        self.number = self.made(job(seam("c1", procedure="P-0042") | {"joint": None}))
        self.assertIn("P-0042", self.text())
        for path in ("/bench", "/materials", "/distortion", "/seams"):
            self.text(path)
        self.assertEqual(self.client.get(f"/jobs/{self.number}/plan.json").status_code, 409)

    def test_search_shows_progress_and_can_be_stopped(self) -> None:
        from tests.jobs import generated_job

        self.number = self.made(generated_job(24, 1))
        text = self.text()
        self.assertIn("data-searching", text)
        self.act("/search", what="stop")
        self.assertIn("Search stopped", self.text())
        self.act("/search", what="on")
        self.assertIn("data-searching", self.text())
