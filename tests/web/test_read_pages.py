"""The pages of Inspect.

A diagnosis by the inspection, its change accepted and undone; statistics, shop history.
"""

import csv
import io
import json
import re
from typing import Any
from unittest import mock

from msgspec.structs import replace

from tests.samples import member, run
from tests.schemas import follows
from tests.web.case import WebCase
from wisearc.core import catalogue
from wisearc.core.errors import InputError
from wisearc.core.run.inspection import Inspection
from wisearc.core.run.saved_reading import SavedReading
from wisearc.core.schema.documents import read_document
from wisearc.core.shop.shop import Shop
from wisearc.formats.run_json import read_run_text
from wisearc.forms.face_tints import list_face_choices
from wisearc.services.diagnosis.diagnosis import reading_of_text
from wisearc.services.runs import later_entries
from wisearc.store.models import Learnt, RunRow

BUTT = {
    "joint": "butt",
    "members": [member(thickness="1.5 mm")] * 2,
    "length": "100 mm",
    "control": "none",
    "pulse": "none",
}


class ReadPages(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.at = self.keep("joint=butt&a.thickness=1.5+mm&length=100+mm&control=none&pulse=none")

    def write(self, **more: Any) -> str:
        """Record a run, and return its inspection page."""
        made = run(BUTT)
        told = {
            f"{part}.{key}": str(value)
            for part in ("set", "used", "measured")
            for key, value in made[part].items()
        }
        done = self.post(
            f"{self.at}/runs",
            self.run_form(**{"outcome": "not-good", **told, **more}),
            self.at + "/runs",
        )
        self.assertEqual(done.status_code, 303)
        return f"/inspect/P-0001/A/{RunRow.select().order_by(RunRow.id.desc()).first().id}"

    def text(self, address: str, code: int = 200) -> str:
        answer = self.client.get(address)
        self.assertEqual(answer.status_code, code, address)
        return str(answer.get_data(as_text=True))

    def change(self, text: str) -> str:
        """The one change that a page proposes, in words."""
        found = re.search(r'class="change-words">([^<]+)', text)
        return found[1] if found else ""

    def test_recorded_values_are_filled_in_and_parsed(self) -> None:
        at = self.write(faults="cold", front="brown")
        text = self.text(at)
        self.assertRegex(text, r'name="faults" value="cold" checked')
        self.assertRegex(text, r'name="front_tint" value="brown" checked')
        self.assertIn("Current", self.change(text))
        self.assertIn(at, self.text("/inspect/"))
        self.assertIn(at, self.text("/procedures/P-0001/A/runs"))

    def test_a_run_saved_as_a_file_carries_its_joint_and_is_read_alone(self) -> None:
        at = self.write(faults="cold", front="brown")
        page = self.text(at)
        self.assertIn(f'href="{at}.json"', page)
        text = self.text(f"{at}.json")
        self.assertEqual(json.loads(text)["joint"]["format"], "wisearc/joint")
        self.assertEqual(json.loads(text)["joint"]["members"][0]["thickness_mm"], 1.5)
        self.assertEqual(read_run_text(text).front.colour, "brown")
        alone = reading_of_text(text, None, Shop())
        self.assertEqual(alone["verdict"], "not-good")
        for name, value, words in (("format", "wisearc/plan", "joint"), ("version", 9, "version")):
            told = json.loads(text)
            told["joint"][name] = value
            with self.subTest(name), self.assertRaisesRegex(InputError, words):
                read_run_text(json.dumps(told))
        told["joint"] = {k: v for k, v in told["joint"].items() if k not in ("format", "version")}
        self.assertEqual(read_run_text(json.dumps(told)).front.colour, "brown")
        self.text(at.rpartition("/")[0] + "/999.json", 404)

    def test_observations_are_in_the_address(self) -> None:
        at = self.write()
        text = self.text(
            f"{at}?seen=1&faults=grey&where.grey=stops&front_tint=straw&told.draught=no&band=12,5&edges=blend"
        )
        self.assertIn("Post-flow", self.change(text))
        self.assertRegex(text, r'name="where.grey" value="stops" checked')
        self.assertRegex(text, r'name="told.draught" value="no" checked')
        self.assertRegex(text, r'id="band"[^>]+value="12.5 mm"')
        dragged = self.text(f"{at}?seen=1&faults=grey&where.grey=0.30-0.55")
        self.assertIn("from 30 to 55 %", dragged)
        # Values that no form sends are ignored.
        self.text(
            f"{at}?seen=1&faults=made-up&where.grey=nowhere&edges=7&told.sugar=perhaps&front_tint=pink"
        )

    def test_temperatures_for_the_selected_metal(self) -> None:
        self.assertIn("540 °C", self.text(self.write()))
        self.at = self.keep("joint=butt&a.metal=430&a.thickness=1+mm&length=100+mm")
        done = self.post(f"{self.at}/runs", self.run_form(outcome="not-good"), f"{self.at}/runs")
        number = done.headers["Location"].partition("/procedures/")[2].partition("/runs")[0]
        text = self.text(
            f"/inspect/{number}/{RunRow.select().order_by(RunRow.id.desc()).first().id}?seen=1&front_tint=blue"
        )
        self.assertNotIn("540 °C", text)
        self.assertIn("has no table of tints", text)

    def test_contradictory_entries_are_saved_and_reported(self) -> None:
        at = self.write(back="sugar")
        text = self.text(f"{at}?seen=1&back_tint=silver&told.sugar=yes")
        self.assertIn("Both are saved", text)
        self.assertRegex(text, r'name="back_tint" value="silver" checked')
        self.assertRegex(text, r'name="told.sugar" value="yes" checked')

    def test_a_change_taken_and_undone(self) -> None:
        at = self.write(faults="cold")
        words = self.change(self.text(at))
        done = self.post(at, {"seen": "1", "faults": "cold", "change": "amps-up"}, at)
        self.assertEqual(done.status_code, 303)
        page = self.text(done.headers["Location"].partition("#")[0])
        self.assertIn(words, page)
        self.assertIn("Weld P-0001 B", page)
        self.assertIn(words, self.text("/weld/at?what=kept:P-0001/B"))
        # The saved change stays, whatever the texts of tomorrow.
        row = catalogue.read_changes()["amps-up"]
        with mock.patch.dict(
            catalogue.read_changes(), {"amps-up": replace(row, words="Other words {to}")}
        ):
            self.assertIn(words, self.text(at))
        self.assertEqual(self.post(f"{at}/undo", {}, at).status_code, 303)
        self.assertNotIn("Weld P-0001 B", self.text(at))
        # Accepted again after undo, it is another draft, and stays.
        self.assertEqual(
            self.post(at, {"seen": "1", "faults": "cold", "change": "amps-up"}, at).status_code, 303
        )
        self.assertIn("Weld P-0001 C", self.text(at))
        self.assertNotIn(
            "archived", re.search(r"<h1>.*?</h1>", self.text("/procedures/P-0001/C"), re.S)[0]
        )
        self.post(f"{at}/undo", {}, at)
        refused = self.post(at, {"seen": "1", "faults": "cold", "change": "regrind"}, at)
        self.assertEqual(refused.status_code, 409)
        self.assertIn("The diagnosis has changed", refused.get_data(as_text=True))

    def test_minimal_saved_diagnosis_is_displayed(self) -> None:
        at = self.write(faults="cold")
        least = {
            "verdict": "not-good",
            "change": {"code": "another", "key": "hand", "text": "Do so"},
            "draft": "Z",
        }
        saved = read_document(SavedReading, least, "reading")
        later_entries.keep_reading("P-0001", "A", int(at.rpartition("/")[2]), Inspection(), saved)
        self.write(faults="hole")
        for page in (
            at,
            "/procedures/P-0001/A/runs",
            "/weld/at?what=kept:P-0001/A",
            "/inspect/statistics",
            "/inspect/",
        ):
            self.assertIn(
                "Do so" if page in (at, "/procedures/P-0001/A/runs") else "", self.text(page)
            )
        for wrong in (
            {"code": "x", "key": "y"},
            {"code": "x", "key": "y", "text": " "},
            {"code": "x", "key": "y", "text": "z", "from": True},
            {"text": "z"},
        ):
            with self.subTest(wrong=wrong), self.assertRaises(InputError):
                read_document(SavedReading, {"verdict": "good", "change": wrong}, "reading")
            self.assertFalse(
                follows(
                    "run",
                    {
                        **run(BUTT),
                        "format": "wisearc/run",
                        "version": 1,
                        "reading": {"verdict": "good", "change": wrong},
                    },
                )
            )
        for wrong_too in (
            {"verdict": "fine"},
            {"verdict": "good", "draft": "P-0001 B"},
            {"verdict": "good", "causes": [{"code": "x"}]},
            {"verdict": "good", "more": 1},
        ):
            with self.subTest(wrong=wrong_too), self.assertRaises(InputError):
                read_document(SavedReading, wrong_too, "reading")
            self.assertFalse(
                follows(
                    "run",
                    {**run(BUTT), "format": "wisearc/run", "version": 1, "reading": wrong_too},
                )
            )

    def test_bad_input_is_reported_at_its_field_and_kept(self) -> None:
        at = self.write(faults="cold")
        text = self.text(f"{at}?seen=1&faults=cold&front_tint=blue&band=wide", 422)
        self.assertRegex(text, r'id="band"[^>]+value="wide"[^>]+aria-invalid="true"')
        self.assertRegex(text, r'name="front_tint" value="blue" checked')
        self.assertIn("0.1 to 200 mm", self.text(f"{at}?seen=1&band=900", 422))
        self.assertEqual(
            self.post(at, {"seen": "1", "band": "wide", "change": ""}, at).status_code, 422
        )
        for wrong in (
            "/inspect/P-0001/A/999",
            f"/inspect/P-0001/A/{10**30}",
            "/inspect/P-0099/A/1",
            "/inspect/shop-history/none/steel",
            "/learn/drills/none",
        ):
            self.text(wrong, 404)

    def test_the_record_its_csv_and_a_run_left_out(self) -> None:
        for _ in range(3):
            self.write(
                outcome="good",
                machine="bench",
                **{"set.current_a": "53", "measured.read_off_a": "53"},
            )
        self.write(faults=["cold", "restart"])
        self.write(faults=["restart"])
        text = self.text("/inspect/statistics")
        for told in (
            "lump or gap at a restart",
            "2 of 5",
            "Butts of 1.13 to 1.69 mm in austenitic",
            "3 runs",
            "Five restarts",
        ):
            self.assertIn(told, text)
        rows = list(
            csv.DictReader(
                io.StringIO(self.client.get("/inspect/statistics.csv").get_data(as_text=True))
            )
        )
        self.assertEqual([row["faults"] for row in rows], ["", "", "", "cold restart", "restart"])
        self.assertIn(
            "shop history: 3 runs",
            self.text("/?joint=butt&a.thickness=1.5+mm&length=100+mm&control=none&pulse=none"),
        )
        self.assertNotIn(
            "shop history: 3 runs",
            self.text(
                "/?joint=butt&a.thickness=1.5+mm&length=100+mm&control=none&pulse=none&own_record=bench"
            ),
        )
        own = "/inspect/shop-history/in-line~2/austenitic"
        self.assertIn(
            f'href="{own}"',
            self.text(
                "/?joint=butt&a.thickness=1.5+mm&length=100+mm&control=none&pulse=none&open=current"
            ),
        )
        for face in ("", "/print"):
            again = self.keep("joint=butt&a.thickness=1.2+mm&length=100+mm&control=none&pulse=none")
            self.assertRegex(
                self.text(again + face), r"shop history: 3 runs, 1\.\d\d × rule of thumb, ± \d %"
            )
        first = Learnt.select().order_by(Learnt.run).first().run
        self.assertEqual(self.post(f"{own}/{first}", {"out": "yes"}, own).status_code, 303)
        self.assertIn("Include", self.text(own))
        self.assertIn("used from 3 runs", self.text(own))
        self.assertNotIn(
            "shop history: 3 runs",
            self.text("/?joint=butt&a.thickness=1.5+mm&length=100+mm&control=none&pulse=none"),
        )

    def test_only_a_measured_current_counts_or_one_that_the_welder_confirms(self) -> None:
        for _ in range(3):
            self.write(outcome="good", machine="bench", **{"set.current_a": "53"})
        plan = "/?joint=butt&a.thickness=1.5+mm&length=100+mm&control=none&pulse=none"
        own = "/inspect/shop-history/in-line~2/austenitic"
        text = self.text(own)
        self.assertEqual(text.count("unknown, not counted"), 3)
        self.assertIn("No run counts yet", text)
        self.assertNotIn("shop history: 3 runs", self.text(plan))
        for row in list(Learnt.select().order_by(Learnt.run)):
            self.post(f"{own}/{row.run}", {"current": "read"}, own)
        text = self.text(own)
        self.assertNotIn("unknown, not counted", text)
        self.assertIn("Not read off", text)
        self.assertIn("shop history: 3 runs", self.text(plan))
        # Correct it: the run is unknown again.
        first = Learnt.select().order_by(Learnt.run).first().run
        self.post(f"{own}/{first}", {"current": "unknown"}, own)
        self.assertEqual(self.text(own).count("unknown, not counted"), 1)
        self.assertEqual(self.client.post(f"{own}/999", data={"current": "read"}).status_code, 400)

    def test_repair_of_a_run_and_its_removal(self) -> None:
        page = self.write(faults="undercut")
        text = self.text(page)
        self.assertIn("Fill the undercut", text)
        self.assertIn("Recorded: 0 of 2", text)
        sent = {
            "flaw": "undercut",
            "result": "sound",
            "length_mm": "20",
            "at_mm": "35",
            "who": "R.T.",
            "notes": "<b>one bead</b>",
            "known": "0",
        }
        for _ in range(2):
            # Sent twice quickly, it is recorded once.
            self.assertEqual(self.post(f"{page}/repairs", sent, page).status_code, 303)
        text = self.text(page)
        self.assertIn("Recorded: 1 of 2", text)
        self.assertIn("last repair for this place", text)
        self.assertIn("&lt;b&gt;one bead&lt;/b&gt;", text)
        # The same repair again is another repair; a page that does not know of it is refused.
        stale = self.post(f"{page}/repairs", {**sent, "notes": "another"}, page)
        self.assertIn("have changed since this page was opened", stale.get_data(as_text=True))
        again = {**sent, "result": "not-sound", "known": "1"}
        self.assertEqual(self.post(f"{page}/repairs", again, page).status_code, 303)
        self.assertIn("repaired 2 times, the maximum", self.text(page))
        record = read_run_text(self.client.get(f"{page}.json").get_data(as_text=True))
        self.assertEqual([one.result for one in record.repairs], ["sound", "not-sound"])
        self.assertEqual(record.repairs[0].length_mm, 20.0)
        revision = self.text("/procedures/P-0001/A/runs")
        self.assertIn("undercut: sound, 20 mm, R.T. ", revision)
        for _ in range(2):
            # Sent twice quickly, one repair is removed.
            self.post(f"{page}/repairs", {"undo": "yes", "known": "2"}, page)
        self.assertIn("Recorded: 1 of 2", self.text(page))

    def test_each_wrong_entry_has_its_error(self) -> None:
        page = self.write(faults="undercut")
        right = {
            "flaw": "undercut",
            "result": "sound",
            "length_mm": "20",
            "who": "R.T.",
            "notes": "x y",
        }
        for changes, words in (
            ({"result": ""}, "Select whether the repair is sound."),
            ({"who": " "}, "Enter the initials of the welder of the repair."),
            ({"length_mm": "long"}, "“long”"),
            ({"length_mm": "0.1"}, "must be from 0.5 mm"),
            ({"flaw": "wobble"}, "wobble"),
            ({"result": "perfect"}, "perfect"),
        ):
            answer = self.post(f"{page}/repairs", {**right, **changes}, page)
            text = answer.get_data(as_text=True)
            self.assertEqual(answer.status_code, 422, changes)
            self.assertIn(words, text)
            self.assertIn("x y", text)
        self.assertIn("Recorded: 0 of 2", self.text(page))
        # The page was in inches: 1 is an inch.
        self.post(f"{page}/repairs", {**right, "length_mm": "1", "habit": "in"}, page)
        record = read_run_text(self.client.get(f"{page}.json").get_data(as_text=True))
        self.assertEqual(record.repairs[0].length_mm, 25.4)

    def test_empty_pages_name_the_first_step(self) -> None:
        self.assertIn("Weld a joint", self.text("/inspect/"))
        self.assertIn("Weld a joint", self.text("/inspect/statistics"))


class TintsOfTheRecord(WebCase):
    def test_tint_of_the_record_is_that_of_the_inspection(self) -> None:
        address = self.keep()
        for tint, colour in (("dark-straw", "straw"), ("dark-purple", "purple"), ("blue", "blue")):
            form = self.run_form(front=tint, back="pale-straw", outcome="not-good")
            self.assertEqual(self.post(f"{address}/runs", form).status_code, 303)
            row = RunRow.select().order_by(RunRow.id.desc()).first()
            self.assertEqual(row.record["front"], {"colour": colour})
            page = self.client.get(f"/inspect/P-0001/A/{row.id}").get_data(as_text=True)
            for face, picked in (("front", tint), ("back", "pale-straw")):
                pattern = rf'name="{face}_tint"\s+value="{picked}" checked'
                self.assertRegex(page, pattern)

    def test_colour_of_an_older_record_stays_a_choice(self) -> None:
        self.assertNotIn("purple", [c.key for c in list_face_choices({})["front"]])
        choices = list_face_choices({"front": "purple"})["front"]
        self.assertEqual(choices[-1].name, "purple")
        self.assertEqual([c.key for c in list_face_choices({})["back"]][-2:], ["sugar", "not-seen"])
