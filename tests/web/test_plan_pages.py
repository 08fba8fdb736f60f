"""Plan over HTTP: the page, its fragments, safety headers, weight."""

import gzip
import html
import re
import unittest

from tests.web.case import WebCase


class Page(WebCase):
    def test_answers_stand_in_the_page(self) -> None:
        text = self.client.get("/?joint=outside-corner&a.thickness=16+ga&length=380+mm").get_data(
            as_text=True
        )
        for words in (
            "16 ga (1.59 mm) 304L sheet",
            "50 A",
            "slow and cold",
            "gas lens, no. 8",
            "<svg",
        ):
            self.assertIn(words, text)

    def test_nonsense_in_the_link(self) -> None:
        text = self.client.get("/?joint=tea&a.thickness=<script>alert(1)</script>&zz=1").get_data(
            as_text=True
        )
        self.assertIn("Part of this link cannot be read", text)
        self.assertNotIn("<script>alert", text)
        self.assertIn("&lt;script&gt;", text)

    def test_inch_units_are_remembered(self) -> None:
        self.client.set_cookie("habit", "in")
        text = self.client.get("/plan").get_data(as_text=True)
        self.assertIn("CFH", text)
        self.assertNotRegex(re.sub(r"<[^>]+>", " ", text).replace("= 1.59 mm", ""), r"\d L/min")

    def test_bad_cookies_are_ignored(self) -> None:
        self.client.set_cookie("habit", "furlong")
        self.client.set_cookie("theme", "neon")
        self.assertEqual(self.client.get("/plan").status_code, 200)

    def test_headers(self) -> None:
        response = self.client.get("/plan")
        policy = response.headers["Content-Security-Policy"]
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertEqual(response.headers["X-Content-Type-Options"], "nosniff")

    def test_first_page_weighs_under_140_kb_compressed(self) -> None:
        text = self.client.get("/plan", headers={"Accept-Encoding": "gzip"})
        self.assertEqual(text.headers["Content-Encoding"], "gzip")
        page = gzip.decompress(text.data).decode()
        total = len(text.data)
        for address in set(re.findall(r'(?:href|src)="(/static/[^"]+)"', page)):
            total += len(self.client.get(address, headers={"Accept-Encoding": "gzip"}).data)
        for font in ("atkinson-mono", "symbols"):
            total += len(self.client.get(f"/static/vendor/fonts/{font}.woff2").data)
        self.assertLess(total, 140_000)


class Fragments(WebCase):
    def asked(self, query: str, have: str = "") -> dict:
        """Return the answer of the page to a link."""
        headers = {"Accept": "application/json", "X-Have": have}
        return self.client.get(f"/?{query}", headers=headers).get_json()

    def test_changed_word(self) -> None:
        body = self.asked("link=joint%3Dtee&a.thickness=16ga&open=torch")
        for name in ("sentence", "editor-a", "row-filler", "more-torch", "views", "dial", "foot"):
            self.assertIn(name, body["parts"])
        self.assertNotIn("more-filler", body["parts"])
        self.assertIn("joint=tee&a.metal=304L&a.form=sheet&a.thickness=16ga", body["address"])
        self.assertIn("Dial ", body["told"])

    def test_only_changes_are_sent(self) -> None:
        """A page with all parts receives nothing, and for another position only differences."""
        first = self.asked("joint=tee")
        have = ",".join(f"{name}:{mark}" for name, mark in first["have"].items())
        self.assertEqual(self.asked("joint=tee", have)["parts"], {})
        after = self.asked("joint=tee&title=Foot", have)
        # what holds the address of the joint, and the one word that differs
        self.assertEqual(
            set(after["parts"]) - {"form", "keep", "views", "cautions"}, {"editor-more"}
        )
        moved = self.asked("joint=tee&position=overhead", have)
        self.assertIn("row-current", moved["parts"])
        self.assertNotIn("editor-a", moved["parts"])

    def test_on_the_wire_under_40_kb(self) -> None:
        sent = self.client.get(
            "/?joint=tee&open=filler",
            headers={"Accept-Encoding": "gzip", "Accept": "application/json"},
        )
        self.assertEqual(sent.headers["Content-Encoding"], "gzip")
        self.assertLess(len(sent.data), 40_000)

    def test_a_page_brings_its_own_parts_and_marks(self) -> None:
        text = self.client.get("/?joint=tee").get_data(as_text=True)
        marks = dict(re.findall(r'data-part="([^"]+)" data-have="([0-9a-f]{8})"', text))
        self.assertEqual(
            {k: v for k, v in marks.items() if not k.startswith("more-")},
            self.asked("joint=tee")["have"],
        )

    def test_refused_word(self) -> None:
        done = self.client.get(
            "/?link=joint%3Dtee&a.thickness=banana", headers={"Accept": "application/json"}
        )
        self.assertEqual(done.status_code, 422)
        parts = done.get_json()["parts"]
        self.assertIn("16 ga", parts["problems"])
        self.assertIn('value="banana"', parts["editor-a"])
        self.assertIn("word-wrong", parts["sentence"])

    def test_nearest_possible_is_offered(self) -> None:
        done = self.client.get(
            "/?link=joint%3Dtube-cope%26a.form%3Dtube%26a.diameter%3D25+mm%26b.diameter%3D51+mm&a.diameter=60+mm"
        )
        self.assertIn("Use 51 mm", done.get_data(as_text=True))


class WithoutScript(WebCase):
    """A form sends all its fields; links and forms alone plan, save, compare, switch and show."""

    def form(self, page: str) -> dict[str, str]:
        """Return the fields that the change form of a page would send.

        They are its hidden fields, text fields and selected options.
        """
        found = {}
        for tag in re.findall(r"<input[^>]*>", page):
            name, value = (re.search(rf' {key}="([^"]*)"', tag) for key in ("name", "value"))
            hidden = 'type="hidden"' in tag and name and name[1] in ("link", "view")
            if name and (
                hidden or ('form="change"' in tag and ("radio" not in tag or " checked" in tag))
            ):
                found[name[1]] = html.unescape(value[1]) if value else ""
        return found

    def test_one_field_of_all_is_changed(self) -> None:
        page = self.client.get("/?joint=tee&a.thickness=16+ga").get_data(as_text=True)
        sent = self.form(page)
        self.assertGreater(len(sent), 25)
        self.assertIn(
            "16 ga (1.59 mm) 304L sheet",
            self.client.get("/", query_string=sent).get_data(as_text=True),
        )
        done = self.client.get("/", query_string={**sent, "length": "200"}).get_data(as_text=True)
        self.assertIn("200 mm long", done)
        self.assertIn("Changed.", done)

    def test_refused_field_keeps_its_entry(self) -> None:
        sent = self.form(self.client.get("/?joint=tee").get_data(as_text=True))
        done = self.client.get("/", query_string={**sent, "gap": "wide"})
        self.assertEqual(done.status_code, 422)
        text = done.get_data(as_text=True)
        for words in ("Gap", "not used", 'value="wide"', "The joint above is unchanged"):
            self.assertIn(words, text)

    def test_every_offer_is_a_link(self) -> None:
        page = self.client.get("/?joint=outside-corner&a.thickness=16+ga&pins.cup=6").get_data(
            as_text=True
        )
        offers = re.findall(r'<a [^>]*href="(/plan\?link=[^"]+)"[^>]*>([^<]+)<', page)
        self.assertGreater(len(offers), 12)
        for address, words in offers:
            with self.subTest(words=words):
                self.assertEqual(self.client.get(html.unescape(address)).status_code, 200)
        back = next(html.unescape(a) for a, words in offers if "recommended" in words)
        self.assertNotIn(
            "pins.cup=6",
            self.client.get(back, headers={"Accept": "application/json"}).get_json()["address"],
        )

    def test_unit_change_returns_to_its_page(self) -> None:
        for referrer, back in (
            ("http://localhost/?joint=tee", "/?joint=tee"),
            ("http://elsewhere.example/x", "/"),
            ("http://localhost//elsewhere.example", "/"),
        ):
            done = self.client.get("/preferences?habit=in", headers={"Referer": referrer})
            self.assertEqual((done.status_code, done.headers["Location"]), (302, back))
        self.assertIn("CFH", self.client.get("/plan").get_data(as_text=True))
        self.client.get("/preferences?habit=furlong")
        self.assertIn("CFH", self.client.get("/plan").get_data(as_text=True))
        self.client.get("/preferences?keys=off")
        self.assertNotIn("data-letters", self.client.get("/plan").get_data(as_text=True))

    def test_hold_and_compare(self) -> None:
        self.client.get("/hold?link=joint%3Dlap")
        page = self.client.get("/?joint=tee").get_data(as_text=True)
        self.assertIn("Compare with selection", page)
        self.assertIn("left=joint%3Dlap", page)
        self.client.get("/compare?left=joint%3Dlap&right=joint%3Dtee")
        self.assertIn(
            "Compare with selection", self.client.get("/?joint=tee").get_data(as_text=True)
        )
        self.client.get("/hold")
        self.assertIn("Select to compare", self.client.get("/?joint=tee").get_data(as_text=True))


class Elsewhere(WebCase):
    def test_internal_error_gets_a_sentence(self) -> None:
        self.app.config.update(TESTING=False, PROPAGATE_EXCEPTIONS=False)
        self.app.view_functions["plan.page"] = lambda: 1 / 0
        with self.assertLogs(self.app.logger, "ERROR"):
            done = self.client.get("/plan")
        self.assertEqual(done.status_code, 500)
        self.assertIn("No changes were made", done.get_data(as_text=True))

    def test_no_such_page(self) -> None:
        done = self.client.get("/nowhere")
        self.assertEqual(done.status_code, 404)
        self.assertIn("This page does not exist", done.get_data(as_text=True))

    def test_as_json_where_asked(self) -> None:
        self.assertIn(
            "error", self.client.get("/nowhere", headers={"Accept": "application/json"}).get_json()
        )

    def test_tables(self) -> None:
        self.assertEqual(self.client.get("/reference/").status_code, 200)


if __name__ == "__main__":
    unittest.main()
