"""The first page: a joint as text, the search, the last work; and a bead without a record."""

import html
import re

from tests.web.case import WebCase
from wisearc.core.shop.data import make_item
from wisearc.services.inventory import shop
from wisearc.services.jobs import jobs
from wisearc.services.procedures import procedures
from wisearc.services.start.recent_work import list_recent_work
from wisearc.store.models import RunRow

CORNER = "joint=outside-corner&a.thickness=16+ga&length=380+mm"


class FrontPage(WebCase):
    def read(self, address: str) -> str:
        return html.unescape(self.client.get(address).get_data(as_text=True))

    def test_ways_to_start_of_an_empty_library(self) -> None:
        page = self.read("/")
        for words in ("Show the plan", "Judge a bead", "Your first weld", "Enter equipment"):
            self.assertIn(words, page)
        self.assertIn("Nothing is saved yet", page)
        # A joint in the address opens Plan, as before.
        self.assertIn("Outside corner", self.read(f"/?{CORNER}"))
        self.assertNotIn("Judge a bead", self.read(f"/?{CORNER}"))

    def test_typed_joint_opens_its_plan(self) -> None:
        done = self.client.get("/start", query_string={"joint": "2 mm 316L sheet, butt 250"})
        self.assertEqual(done.status_code, 302)
        self.assertIn("a.thickness=2+mm", done.location)
        self.assertIn("joint=butt", done.location)
        self.assertEqual(self.client.get("/start?joint=").location, "/plan")
        wrong = self.client.get("/start", query_string={"joint": "2 mm adamantium"})
        self.assertEqual(wrong.status_code, 422)
        text = wrong.get_data(as_text=True)
        self.assertIn("adamantium", text)
        self.assertIn('aria-describedby="joint-wrong"', text)
        self.keep(CORNER)
        like = self.client.get("/start", query_string={"joint": "like P-0001 but 2 mm"}).location
        self.assertIn("a.thickness=2+mm", like)
        self.assertIn("length=380+mm", like)
        missing = self.client.get("/start", query_string={"joint": "like P-0099"})
        self.assertEqual(missing.status_code, 422)

    def test_last_work_with_its_next_step(self) -> None:
        self.keep(CORNER)
        jobs.begin("Mast head", "")
        (first, second) = sorted(list_recent_work(), key=lambda work: work.label)
        self.assertEqual((first.label, first.state), ("Mast head", "no seams yet"))
        self.assertEqual((second.label, second.state), ("P-0001 A", "draft, not set up yet"))
        page = self.read("/")
        self.assertIn("/set-up/P-0001/A", page)
        self.assertIn("/jobs/1", page)
        self.assertEqual(self.client.get("/set-up/P-0001/A").status_code, 200)
        procedures.archive_draft("P-0001", "A")
        self.assertEqual([work.label for work in list_recent_work()], ["Mast head"])

    def test_one_search_over_everything(self) -> None:
        self.keep(CORNER)
        jobs.begin("Keyhole mast", "")
        shop.enter(
            make_item("parts", {"kind": "cup", "family": "large", "cup": 8, "fits": "gas-lens"})
        )
        self.assertEqual(self.client.get("/find?q=p-1").location, "/procedures/P-0001")
        cup = self.read("/find?q=cup+8")
        self.assertIn("cup no. 8, for a gas lens (large)", cup)
        keyhole = self.read("/find?q=keyhole")
        for words in ("<h2>Jobs</h2>", "Keyhole mast", "<h2>Terms</h2>"):
            self.assertIn(words, keyhole)
        corner = self.read("/find?q=corner")
        self.assertIn("<h2>Procedures</h2>", corner)
        self.assertIn("<h2>A joint</h2>", self.read("/find?q=2+mm+304+sheet+butt"))
        self.assertIn("Nothing matches “xyzzy”", self.read("/find?q=xyzzy"))
        self.assertIn("Type a number", self.read("/find"))


class Bead(WebCase):
    def judge(self, **fields: str) -> str:
        answer = self.client.get("/inspect/bead", query_string={"seen": "1", **fields})
        return html.unescape(answer.get_data(as_text=True))

    def test_answer_without_a_record(self) -> None:
        empty = self.judge(joint="2 mm 304 butt 200")
        self.assertIn("The diagnosis appears here", empty)
        answer = self.judge(joint="2 mm 304 butt 200", faults="undercut", front_tint="straw")
        self.assertIn("<h2>Not good</h2>", answer)
        self.assertIn("Recommended change", answer)
        good = self.judge(joint="2 mm 304 butt 200", front_tint="silver", back_tint="silver")
        self.assertNotIn("<h2>Not good</h2>", good)
        self.assertFalse(RunRow.select().count())

    def test_typed_setting_replaces_the_planned_one(self) -> None:
        fields = {"joint": "1.5 304 butt 200", "faults": "root-sagged"}
        hot = re.search(r'change-words">([^<]+)', self.judge(**fields, current="95"))
        planned = re.search(r'change-words">([^<]+)', self.judge(**fields))
        assert hot is not None and planned is not None
        self.assertIn("95", hot[1])
        self.assertNotIn("95", planned[1])

    def test_planned_setting_names_the_peak_or_the_arc(self) -> None:
        corner = self.judge(joint="1.5 304L sheet outside corner 300")
        self.assertIn("planned setting 104 A, the peak.", corner)
        self.assertRegex(
            self.judge(joint="1.5 304L sheet butt 300"), r"planned setting \d+ A, arc \d+ A\."
        )

    def test_wrong_entries_have_a_sentence(self) -> None:
        for fields, words in (
            ({"joint": "spoon"}, "spoon"),
            ({"current": "many"}, "many"),
            ({"current": "9999"}, "from 1 to 500"),
            ({"joint": "like P-0042"}, "not in the library"),
        ):
            answer = self.client.get("/inspect/bead", query_string={"seen": "1", **fields})
            self.assertEqual(answer.status_code, 422, fields)
            self.assertIn(words, answer.get_data(as_text=True))

    def test_saved_as_a_run_of_its_procedure_or_of_a_draft(self) -> None:
        self.keep(CORNER)
        bead = {"seen": "1", "front_tint": "blue", "faults": "undercut"}
        refused = self.post("/inspect/bead", {**bead, "joint": "P-0001"}, page="/plan")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("initials", refused.get_data(as_text=True))
        done = self.post("/inspect/bead", {**bead, "joint": "P-0001", "who": "A.B."}, page="/plan")
        self.assertIn("/inspect/P-0001/A/", done.location)
        self.assertIn("Undercut", self.client.get(done.location).get_data(as_text=True))
        other = self.post(
            "/inspect/bead", {**bead, "joint": "1 mm 304 lap 90", "who": "A.B."}, page="/plan"
        )
        self.assertIn("/inspect/P-0002/A/", other.location)
        runs = list(RunRow.select())
        self.assertEqual(
            [(run.good, run.record["front"]["colour"]) for run in runs], 2 * [(False, "blue")]
        )
        untinted = self.post("/inspect/bead", {"seen": "1", "joint": "P-0001", "who": "A.B."})
        self.assertEqual(untinted.status_code, 422)
