"""The heat of a job: waits by the plan and by the field, used in the sequence, and undone."""

import json
import re
import time

from tests.web.case import WebCase
from wisearc.services.jobs import jobs

SEAM = {
    "format": "wisearc/job",
    "version": 1,
    "title": "Bracket",
    "parts": ["a", "b"],
    "seams": [
        {
            "key": key,
            "joint": {
                "joint": "butt",
                "members": [{"metal": "304L", "thickness": "1.5 mm"}] * 2,
                "length": "40 mm",
            },
            "joins": ["a", "b"],
        }
        for key in ("s1", "s2")
    ],
}


class JobHeat(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.number = jobs.import_job(json.dumps(SEAM).encode(), "job.json").id
        self.path = f"/jobs/{self.number}/heat"

    def wait_for_fields(self) -> str:
        until = time.monotonic() + 150
        while True:
            text = self.client.get(self.path).get_data(as_text=True)
            if "The page updates itself" not in text or time.monotonic() > until:
                return text
            time.sleep(0.2)

    def test_waits_are_used_and_undone(self) -> None:
        text = self.wait_for_fields()
        self.assertNotIn('http-equiv="refresh"', text)
        edit = re.search(r'name="edit" value="([0-9]+)"', text)
        assert edit is not None
        plain = self.client.get(f"/jobs/{self.number}/plan.json").get_json()
        done = self.post(self.path, {"use": "field", "edit": edit[1]})
        self.assertEqual(done.status_code, 303)
        seams = jobs.read_saved_job(jobs.find(self.number)).seams
        waits = [seam.cool_s for seam in seams]
        self.assertEqual(waits[0], waits[1])
        self.assertGreater(waits[0] or 0, 1)
        self.assertGreater(seams[0].mean_end_c or 0, 20)
        planned = self.client.get(f"/jobs/{self.number}/plan.json").get_json()
        self.assertNotEqual(planned["cost_s"], plain["cost_s"])
        self.assertIn("(used)", self.client.get(self.path).get_data(as_text=True))
        jobs.undo(self.number)
        self.assertIsNone(jobs.read_saved_job(jobs.find(self.number)).seams[0].cool_s)

    def test_waits_of_the_plans(self) -> None:
        text = self.wait_for_fields()
        edit = re.search(r'name="edit" value="([0-9]+)"', text)
        assert edit is not None
        self.post(self.path, {"use": "field", "edit": edit[1]})
        edit = re.search(r'name="edit" value="([0-9]+)"', self.client.get(self.path).get_data(True))
        assert edit is not None
        self.post(self.path, {"use": "plan", "edit": edit[1]})
        self.assertIsNone(jobs.read_saved_job(jobs.find(self.number)).seams[1].cool_s)

    def test_empty_job(self) -> None:
        row = self.post("/jobs/new", {"title": "Empty"})
        path = str(row.headers["Location"]).split("#")[0].split("?")[0]
        number = re.search("/jobs/([0-9]+)", path)
        assert number is not None
        page = self.client.get(f"/jobs/{number[1]}/heat")
        self.assertIn("no seams yet", page.get_data(as_text=True))
