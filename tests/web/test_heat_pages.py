"""The pages of heat in time: asked for, calculated in the background, shown without script."""

import re
import time
from typing import Any
from unittest import mock
from urllib.parse import urlencode

from werkzeug.test import TestResponse

from tests.web.case import WebCase
from wisearc.services.heat.requests import Answer, HeatRequests

QUERY = "joint=butt&a.metal=304L&a.form=sheet&a.thickness=1.5+mm&length=40+mm"


class HeatPages(WebCase):
    def wait_for(self, path: str, **query: Any) -> TestResponse:
        """Ask until it is calculated."""
        until = time.monotonic() + 150
        while True:
            response = self.client.get(path, query_string={"link": QUERY, **query})
            if response.status_code != 202 or time.monotonic() > until:
                return response

    def test_field(self) -> None:
        response = self.wait_for("/heat/field", preview=1)
        self.assertEqual(response.status_code, 200)
        body = response.get_json(force=True)
        self.assertEqual(body["grid_mm"], 1.0)
        self.assertEqual(len(body["view"]["across_mm"]) % 2, 1)
        self.assertTrue(body["view"]["frames"])
        tried = self.wait_for("/heat/field", preview=1, current_a="90,5").get_json(force=True)
        self.assertEqual(tried["arc"]["peak_a"], 90.5)

    def test_bad_input_is_one_sentence(self) -> None:
        for query, words in (
            ({"travel_mm_s": "0"}, "must be from 0.2 to 20"),
            ({"current_a": "much"}, "must be a number from 3 to 400"),
            ({"width_mm": "6", "bar_from_mm": "9"}, "outside the sheet"),
        ):
            response = self.wait_for("/heat/field", **query)
            with self.subTest(query=query):
                self.assertEqual(response.status_code, 422)
                self.assertIn(words, response.get_json()["error"])
            page = self.client.get("/heat/", query_string={"link": QUERY, **query})
            self.assertIn(words, page.get_data(as_text=True))
        unknown = self.client.get("/heat/change", query_string={"link": QUERY, "goal": "gold"})
        self.assertEqual(unknown.status_code, 422)

    def test_only_the_own_page_can_stop_a_calculation(self) -> None:
        foreign = self.client.post("/heat/stop", data={"number": "none"})
        self.assertEqual(foreign.status_code, 400)
        self.assertEqual(self.client.get("/heat/stop?number=none").status_code, 405)
        own = {**self.token(f"/heat/?{urlencode({'link': QUERY})}"), "number": "none"}
        self.assertEqual(self.client.post("/heat/stop", data=own).status_code, 204)

    def test_sources_of_the_field(self) -> None:
        text = self.client.get("/heat/", query_string={"link": QUERY}).get_data(as_text=True)
        sources = text.split("Sources of the field")[1]
        self.assertIn("EN 1993-1-2", sources)
        self.assertIn("No part size is entered.", sources)

    def test_page_without_script(self) -> None:
        self.wait_for("/heat/field", preview=1)
        text = self.client.get("/heat/", query_string={"link": QUERY}).get_data(as_text=True)
        self.assertIn("<svg", text.split("<heat-field")[1].split("</heat-field>")[0])
        self.assertIn("Results", text)
        self.assertIn("The next seam can start", text)
        self.assertEqual(len(re.findall('type="range"', text)), 4)

    def test_change_is_a_link_of_the_plan(self) -> None:
        response = self.wait_for("/heat/change", goal="flat")
        told = response.get_json()
        self.assertEqual(response.status_code, 200)
        self.assertTrue(told["words"].endswith("."))
        if "address" in told:
            self.assertEqual(self.client.get(told["address"]).status_code, 200)

    def test_missing_picture_shows_its_reason(self) -> None:
        """A sheet never shows a broken picture, also on a slow machine."""
        waiting = Answer("7", progress=0.2)
        with mock.patch.object(HeatRequests, "ask_field", return_value=waiting):
            drawn = self.client.get("/heat/picture.svg", query_string={"link": QUERY})
        self.assertEqual((drawn.status_code, drawn.mimetype), (200, "image/svg+xml"))
        self.assertIn("is still being calculated", drawn.get_data(as_text=True))
        self.assertEqual(drawn.headers["Cache-Control"], "no-store")
        small = QUERY.replace("length=40", "length=2")
        refused = self.client.get("/heat/picture.svg", query_string={"link": small})
        self.assertEqual((refused.status_code, refused.mimetype), (422, "image/svg+xml"))
        self.assertIn("smaller than", refused.get_data(as_text=True))

    def test_procedure(self) -> None:
        page = self.client.get("/", query_string={"link": QUERY, "view": "heat"})
        self.assertIn("<heat-field", page.get_data(as_text=True))
        self.keep(QUERY)
        for path in ("/procedures/P-0001/A/documents", "/procedures/P-0001/A/print"):
            self.assertIn("/heat/", self.client.get(path).get_data(as_text=True))
        drawn = self.client.get("/heat/picture.svg?kept=P-0001/A")
        self.assertEqual((drawn.status_code, drawn.mimetype), (200, "image/svg+xml"))
        self.assertNotIn("var(--", drawn.get_data(as_text=True))
        page = self.client.get("/heat/", query_string={"kept": "P-0001/A", "right": QUERY})
        self.assertEqual(page.get_data(as_text=True).count("<heat-field"), 2)
