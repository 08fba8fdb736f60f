"""Addresses: scripts hard-code none, and whole numbers are read in one way."""

import re
from pathlib import Path

from tests.web.case import WebCase
from wisearc.web.numbers import parse_integer

WEB = Path(__file__).resolve().parents[2] / "wisearc" / "web"


class Addresses(WebCase):
    def test_no_script_writes_an_address_of_the_site(self) -> None:
        sections = {p.name for p in WEB.iterdir() if (p / "views.py").exists()} | {"static"}
        found = [
            (script.name, one[0])
            for script in sorted((WEB / "static").glob("*.js"))
            for one in re.finditer(r"[\"'`(]/([a-z]+)[/\"'`?]", script.read_text("utf-8"))
            if one[1] in sections
        ]
        self.assertEqual(found, [])

    def test_cached_page_marks_live_values(self) -> None:
        here = self.keep().rpartition("/procedures/")[2]
        page = self.client.get(f"/weld/at?what=kept:{here}").get_data(as_text=True)
        told = re.search(r'data-holds="([^"]+)" data-scope="/weld/"', page)
        self.assertIsNotNone(told)
        address = told[1].replace("&amp;", "&").replace("%2F", "/") if told else ""
        for live in ("/weld/purged", "/weld/NUMBER/live", "/weld/NUMBER/write"):
            self.assertIn(f"live={live}", address)
        self.assertIn("static=/static/", address)
        self.assertEqual(self.client.get(address).mimetype, "text/javascript")


class Numbers(WebCase):
    def test_integer_is_plain_digits_within_its_limit(self) -> None:
        for text, number in (
            ("7", 7),
            (" 12 ", 12),
            ("999999999", 999_999_999),
            ("1000000000", 0),
            ("-1", 0),
            ("+1", 0),
            ("1.0", 0),
            ("٣", 0),
            ("", 0),
        ):
            with self.subTest(text=text):
                self.assertEqual(parse_integer(text), number)
        self.assertEqual([parse_integer(t, 1, 50) for t in ("50", "51", "x")], [50, 1, 1])

    def test_row_number_beyond_json_range_is_missing(self) -> None:
        for number, code in ((2**53 - 1, 404), (2**53, 404), (10**30, 404), ("x", 404)):
            with self.subTest(number=number):
                self.assertEqual(self.client.get(f"/jobs/{number}").status_code, code)
