"""Undo on the page of a record, two who correct one run, the inbox, filters and documents."""

import io
import json
import re
import time
import unittest

from PIL import Image

from tests.web.case import WebCase
from wisearc.services.runs import inbox


class Undo(WebCase):
    def text(self, path: str) -> str:
        return str(self.client.get(path).get_data(as_text=True))

    def act(self, path: str) -> str:
        return re.search(r'name="act" value="(\d+)"', self.text(path))[1]

    def test_recorded_run_is_undone_on_the_next_page(self) -> None:
        here = self.keep()
        done = self.post(f"{here}/runs", self.run_form())
        page = self.text(done.headers["Location"])
        self.assertIn("Undo: Run of 2026-03-04 by R.T. was recorded", page)
        act = self.act(f"{here}/changes")
        self.assertEqual(self.post("/procedures/P-0001/undo", {"act": act}).status_code, 303)
        self.assertIn("state-draft", self.text(here))
        self.assertIn("Voided", self.text(f"{here}/runs"))
        # The same undo again, as from a page that is still open.
        late = self.post("/procedures/P-0001/undo", {"act": act})
        self.assertEqual(late.status_code, 409)
        self.assertIn("was changed after that", late.get_data(as_text=True))

    def test_second_of_two_corrections_sees_both(self) -> None:
        here = self.keep()
        self.post(f"{here}/runs", self.run_form(outcome="not-good"))
        number = re.search(r'id="run-(\d+)"', self.text(f"{here}/runs"))[1]
        page = f"{here}/runs/{number}/correct"
        form = self.run_form(outcome="not-good", corrected_by="R.T.", known="0")
        self.assertEqual(self.post(page, {**form, "machine": "field"}).status_code, 303)
        late = self.post(page, {**form, "notes": "by the second"})
        text = late.get_data(as_text=True)
        self.assertEqual(late.status_code, 409)
        self.assertIn("Someone corrected this run after you opened it", text)
        self.assertRegex(text, "Machine: was nothing, now <b>field</b> by R.T.")
        self.assertIn("by the second", text)
        again = {**form, "machine": "field", "notes": "by the second", "known": "1"}
        self.assertEqual(self.post(page, again).status_code, 303)


class Inbox(WebCase):
    def text(self, path: str = "/procedures/inbox") -> str:
        return str(self.client.get(path).get_data(as_text=True))

    def ended(self) -> str:
        until = time.monotonic() + 120
        while time.monotonic() < until:
            done = self.client.get("/shop/work", follow_redirects=True)
            if "Refresh" not in done.headers:
                return done.get_data(as_text=True)
            time.sleep(0.1)
        raise AssertionError("the work did not end")

    def picture(self, colour: int) -> io.BytesIO:
        out = io.BytesIO()
        Image.new("RGB", (64, 48), (colour, 90, 90)).save(out, "JPEG")
        return io.BytesIO(out.getvalue())

    def send(self, *names: str) -> str:
        now = time.time() * 1000
        files = [(self.picture(30 + 40 * i), name) for i, name in enumerate(names)]
        form = {"files": files, "times": json.dumps(dict.fromkeys(names, now))}
        self.assertEqual(self.post("/procedures/inbox/files", form).status_code, 303)
        return self.ended()

    def test_dropped_matched_taken_and_undone(self) -> None:
        self.assertIn("The inbox is empty", self.text())
        here = self.keep()
        self.post(f"{here}/runs", self.run_form(outcome="not-good"))
        self.assertIn("2 files added", self.send("bench/a.jpg", "b.jpg"))
        self.assertIn("<b>bench/a.jpg</b>", self.text())
        text = self.text()
        self.assertIn("Probably <b>P-0001 A, 2026-03-04, R.T.</b>", text)
        self.assertIn("Take all 2 matched", text)
        item, run = re.search(
            r'name="item" value="(\d+)"><button class="btn btn-good" name="run" value="(\d+)"', text
        ).groups()
        taken = self.post("/procedures/inbox/take", {"item": item, "run": run})
        self.assertEqual(taken.status_code, 303)
        self.assertEqual(self.text(f"{here}/photographs").count("<img"), 1)
        self.assertEqual(self.post("/procedures/inbox/take", {"every": "yes"}).status_code, 303)
        self.assertEqual(self.text(f"{here}/photographs").count("<img"), 2)
        act = re.search(r'name="act" value="(\d+)"', self.text(f"{here}/changes"))[1]
        self.post("/procedures/P-0001/undo", {"act": act})
        self.assertEqual(self.text(f"{here}/photographs").count("<img"), 1)
        self.assertIn("Inbox (1)", self.text("/procedures/"))

    def test_removed_and_restored(self) -> None:
        self.send("a.jpg")
        item = re.search(r'name="item" value="(\d+)"', self.text())[1]
        done = self.post("/procedures/inbox/drop", {"item": item})
        self.assertIn("was removed from the inbox", self.text(done.headers["Location"]))
        self.assertIn("The inbox is empty", self.text())
        self.post("/procedures/inbox/drop", {"item": item, "back": "yes"})
        self.assertIn("a.jpg", self.text())

    def test_bad_requests(self) -> None:
        for path, form, words in (
            ("files", {}, f"Choose 1 to {inbox.MAX_FILES} photographs"),
            ("take", {"item": "7"}, "Choose a run for the file"),
            ("take", {"item": "7", "run": "9"}, "not in the inbox"),
            ("drop", {"item": "7"}, "not in the inbox"),
        ):
            with self.subTest(path):
                done = self.post(f"/procedures/inbox/{path}", form)
                self.assertIn(done.status_code, (404, 422))
                self.assertIn(words, done.get_data(as_text=True))


class Find(WebCase):
    def setUp(self) -> None:
        super().setUp()
        tube = "a.metal=316L&a.form=tube&a.thickness=1.5+mm&a.diameter=51+mm"
        self.keep(f"joint=tube-butt&{tube}&length=all-round&service=food")
        self.keep("joint=butt&a.metal=304L&a.thickness=1+mm&length=100+mm")
        here = self.keep("joint=tee&a.metal=430&a.thickness=2+mm&length=100+mm")
        self.post(f"{here}/runs", self.run_form(outcome="not-good", machine="bench 200"))

    def found(self, query: str) -> list[str]:
        text = self.client.get(f"/procedures/?{query}").get_data(as_text=True)
        return re.findall(r'class="row-link"[^>]*>(P-\d{4}) A<', text)

    def test_filters(self) -> None:
        for query, numbers in (
            ("", ["P-0003", "P-0002", "P-0001"]),
            ("q=51", ["P-0001"]),
            ("q=51+x+1.5", ["P-0001"]),
            ("q=2+in+tube", ["P-0001"]),
            ("q=2%22", ["P-0001"]),
            ("q=tube+butt", ["P-0001"]),
            ("joint=tee", ["P-0003"]),
            ("metal=304L", ["P-0002"]),
            ("rod=ER308L", ["P-0002"]),
            ("service=food", ["P-0001"]),
            ("machine=bench+200", ["P-0003"]),
            ("welder=R.T.", ["P-0003"]),
            ("outcome=not-good", ["P-0003"]),
            ("outcome=good", []),
            ("outcome=none", ["P-0002", "P-0001"]),
            ("from=1.2+mm", ["P-0003", "P-0001"]),
            ("from=1.2+mm&to=1.5+mm", ["P-0001"]),
            ("to=18+ga", ["P-0002"]),
            ("until=2020-01-01", []),
            ("since=2020-01-01&sort=thin", ["P-0002", "P-0001", "P-0003"]),
            ("sort=thick", ["P-0003", "P-0001", "P-0002"]),
            ("sort=runs", ["P-0003", "P-0002", "P-0001"]),
            ("q=zzz", []),
            ("q=51&metal=304L", []),
        ):
            with self.subTest(query):
                self.assertEqual(self.found(query), numbers)

    def test_each_wrong_filter_has_its_error(self) -> None:
        for query, field, words in (
            ("metal=unobtainium", "metal", "is not a choice here"),
            ("from=thick", "from", "must be"),
            ("since=yesterday", "since", "must be a date"),
            ("from=3+mm&to=1+mm", "to", "Enter the larger one here"),
        ):
            with self.subTest(query):
                text = self.client.get(f"/procedures/?{query}").get_data(as_text=True)
                self.assertRegex(text, rf'id="error-{field}">[^<]*{words}')
                self.assertIn('<details class="filters" open>', text)

    def test_saved_view_and_its_csv(self) -> None:
        done = self.post("/procedures/views", {"name": "Food tubes", "query": "service=food"})
        self.assertEqual(done.headers["Location"], "/procedures/?service=food")
        page = self.client.get(done.headers["Location"]).get_data(as_text=True)
        self.assertRegex(page, r'aria-current="page">Food tubes</a>')
        rows = self.client.get("/procedures/list.csv?service=food").text.splitlines()
        self.assertEqual(rows[0].split(",")[:3], ["number", "revision", "title"])
        self.assertEqual([row.split(",")[0] for row in rows[1:]], ["P-0001"])
        self.assertIn(",1.5,1.5,51,food,", rows[1])
        nameless = self.post("/procedures/views", {"name": " ", "query": "service=food"})
        self.assertEqual(nameless.status_code, 422)
        self.assertIn("Name is missing", nameless.get_data(as_text=True))
        gone = self.post("/procedures/views/remove", {"name": "Food tubes"})
        self.assertNotIn("Food tubes", self.client.get(gone.headers["Location"]).text)

    def test_procedures_that_fit_a_joint_with_why(self) -> None:
        near = "joint=butt&a.metal=304&a.thickness=1.2+mm&length=100+mm"
        text = self.client.get(f"/?{near}").get_data(as_text=True)
        section = re.search(r"Procedures that fit</h2>(.*?)</section>", text, re.DOTALL)[1]
        self.assertIn("P-0002", section)
        self.assertNotIn("P-0003", section)
        self.assertRegex(section, "304L instead of 304, 0.2 mm thinner, not verified")


class Documents(WebCase):
    def test_sheet_card_and_traveller_by_one_worker(self) -> None:
        here = self.keep()
        self.assertIn("Bench card", self.client.get(f"{here}/documents").get_data(as_text=True))
        for kind in ("sheet", "card"):
            done = self.client.get(f"{here}/{kind}.pdf")
            self.assertEqual((done.status_code, done.mimetype), (200, "application/pdf"))
            self.assertTrue(done.data.startswith(b"%PDF-"))
        self.assertEqual(self.client.get(f"{here}/poster.pdf").status_code, 404)
        self.assertEqual(self.client.get("/procedures/P-0009/A/sheet.pdf").status_code, 404)
        late = self.client.get("/jobs/9/traveller.pdf")
        self.assertIn("There is no job 9", late.get_data(as_text=True))
        self.assertEqual(list(self.folder.glob("*.part")), [])

    def test_killed_worker_is_replaced(self) -> None:
        here = self.keep()
        from wisearc.web.context import get_context

        documents = get_context(self.app).documents
        self.client.get(f"{here}/card.pdf")
        documents._process.kill()
        documents._process.wait()
        self.assertEqual(self.client.get(f"{here}/card.pdf").status_code, 200)

    def test_booklet_of_a_view(self) -> None:
        self.keep()
        done = self.post("/procedures/booklet", {"query": "joint=outside-corner"})
        self.assertEqual(done.headers["Location"], "/shop/work")
        until = time.monotonic() + 120
        while time.monotonic() < until:
            page = self.client.get("/shop/work")
            if "Refresh" not in page.headers:
                break
            time.sleep(0.2)
        name = re.search(r"/procedures/booklets/([^\"]+)", page.get_data(as_text=True))[1]
        with self.client.get(f"/procedures/booklets/{name}") as file:
            self.assertTrue(file.data.startswith(b"%PDF-"))
        self.assertEqual(self.client.get("/procedures/booklets/other.pdf").status_code, 404)
        empty = self.post("/procedures/booklet", {"query": "joint=lap"})
        self.assertEqual(empty.status_code, 422)
        self.assertIn("must have 1 to 200 revisions", empty.get_data(as_text=True))


if __name__ == "__main__":
    unittest.main()
