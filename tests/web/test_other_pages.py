"""Comparison, approaches, tables and sources over HTTP; manual answers and fixes in the page."""

import html
import unittest

from tests.web.case import WebCase
from wisearc.core import catalogue


class Compare(WebCase):
    def test_two_links_side_by_side(self) -> None:
        done = self.client.get(
            "/compare",
            query_string={
                "left": "joint=outside-corner&length=380 mm",
                "right": "joint=outside-corner&length=380 mm&pulse=none&back=open",
            },
        )
        text = done.get_data(as_text=True)
        for words in (
            "Comparison",
            "Plan with the second",
            "Compared with the first",
            "more in the second",
            'class="differs"',
        ):
            self.assertIn(words, text)

    def test_nonsense_in_a_side(self) -> None:
        text = self.client.get(
            "/compare", query_string={"left": "joint=tea", "right": "pin.cup=9"}
        ).get_data(as_text=True)
        self.assertIn("Part of these links cannot be read", text)


class Approaches(WebCase):
    def test_choose_one(self) -> None:
        done = self.post(
            "/shop/preferences", {"key": "tip_school", "value": "needle"}, page="/shop/"
        )
        self.assertEqual(done.status_code, 303)
        self.assertIn(
            "tip_school=needle", html.unescape(self.client.get("/plan").get_data(as_text=True))
        )
        self.assertNotIn(
            "tip_school",
            self.client.get("/?joint=butt")
            .get_data(as_text=True)
            .split('name="link" value="')[1]
            .split('"')[0],
        )

    def test_unknown_is_refused(self) -> None:
        done = self.post(
            "/shop/preferences", {"key": "tip_school", "value": "spoon"}, page="/shop/"
        )
        self.assertEqual(done.status_code, 422)
        self.assertIn("must be one of table, needle", done.get_data(as_text=True))


class Tables(WebCase):
    def test_every_catalogue_row_is_listed(self) -> None:
        text = self.client.get("/reference/").get_data(as_text=True)
        for names in (
            catalogue.load_rods(),
            [m.name for m in catalogue.load_metals().values()],
            [f"no. {c}" for c in catalogue.load_cups()],
        ):
            for name in names:
                self.assertIn(name, text)

    def test_every_source_and_estimate_is_listed(self) -> None:
        text = html.unescape(self.client.get("/reference/sources").get_data(as_text=True))
        for entry in (*catalogue.load_works().values(), *catalogue.load_estimates().values()):
            self.assertIn(entry.title, text)
        self.assertIn("from memory", text)


class Drawings(WebCase):
    def test_each_view_and_a_wrong_one(self) -> None:
        for view, words in (
            ("cut", "Cross-section"),
            ("seam", "from above"),
            ("time", "Weld timeline"),
            ("metal", "chromium against nickel"),
            ("heat", "across the seam"),
            ("hat", "Cross-section"),
        ):
            self.assertIn(
                words, self.client.get(f"/?joint=butt&view={view}").get_data(as_text=True)
            )


class Pinned(WebCase):
    def test_effect_and_fix_are_on_the_page(self) -> None:
        text = self.client.get("/?joint=butt&pin.cup=6&pin.peak_a=90").get_data(as_text=True)
        for words in ("Cup 6.", "This also changes", "OK: no cautions."):
            self.assertIn(words, text)
        stopped = self.client.get(
            "/?joint=butt&gap=0.2+mm&pulse=fast&pin.peak_a=180&pin.current_a=40"
        ).get_data(as_text=True)
        self.assertIn("Use the calculated pulse", stopped)

    def test_pins_are_kept_with_the_record(self) -> None:
        here = self.keep("joint=butt&pin.cup=6&pin.flow_l_min=8.5")
        kept = self.client.get(here + ".json").get_json()
        self.assertEqual(kept["joint"]["pins"], {"cup": 6, "flow_l_min": 8.5})
        self.assertIn("manual", self.client.get(here).get_data(as_text=True))


if __name__ == "__main__":
    unittest.main()
