"""Plan over HTTP: the page, its fragments, safety headers, weight."""

import gzip
import re
import unittest

from tests.web.case import WebCase


class Page(WebCase):
    def test_answers_stand_in_the_page(self) -> None:
        text = self.client.get("/?joint=outside-corner&a.thickness=16+ga&length=380+mm").get_data(as_text=True)
        for words in ("16 ga (1.59 mm) 304L sheet", "50 A", "slow and cold", "gas lens, no. 8", "<svg"):
            self.assertIn(words, text)

    def test_nonsense_in_the_link(self) -> None:
        text = self.client.get("/?joint=tea&a.thickness=<script>alert(1)</script>&zz=1").get_data(as_text=True)
        self.assertIn("Not all of this link could be read", text)
        self.assertNotIn("<script>alert", text)
        self.assertIn("&lt;script&gt;", text)

    def test_inch_habit_is_remembered(self) -> None:
        self.client.set_cookie("habit", "in")
        text = self.client.get("/").get_data(as_text=True)
        self.assertIn("CFH", text)
        self.assertNotRegex(re.sub(r"<[^>]+>", " ", text).replace("= 1.59 mm", ""), r"\d L/min")

    def test_bad_cookies_are_ignored(self) -> None:
        self.client.set_cookie("habit", "furlong")
        self.client.set_cookie("theme", "neon")
        self.assertEqual(self.client.get("/").status_code, 200)

    def test_headers(self) -> None:
        response = self.client.get("/")
        policy = response.headers["Content-Security-Policy"]
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertEqual(response.headers["X-Content-Type-Options"], "nosniff")

    def test_first_page_weighs_under_300_kb_compressed(self) -> None:
        text = self.client.get("/", headers={"Accept-Encoding": "gzip"})
        self.assertEqual(text.headers["Content-Encoding"], "gzip")
        page = gzip.decompress(text.data).decode()
        total = len(text.data)
        for address in set(re.findall(r'(?:href|src)="(/static/[^"]+)"', page)):
            total += len(self.client.get(address, headers={"Accept-Encoding": "gzip"}).data)
        for font in ("atkinson-mono", "symbols"):
            total += len(self.client.get(f"/static/vendor/fonts/{font}.woff2").data)
        self.assertLess(total, 300_000)


class Fragments(WebCase):
    def asked(self, query: str, have: str = "") -> dict:
        """What the page is sent for a link."""
        headers = {"Accept": "application/json", "X-Have": have}
        return self.client.get(f"/plan/answers?{query}", headers=headers).get_json()

    def test_changed_word(self) -> None:
        body = self.asked("joint=tee&a.thickness=16ga&changed=joint&open=torch")
        for name in ("sentence", "editor-a", "row-filler", "more-torch", "drawing", "foot"):
            self.assertIn(name, body["parts"])
        self.assertNotIn("more-filler", body["parts"])
        self.assertIn("joint=tee", body["link"])

    def test_only_what_changed_is_sent(self) -> None:
        """A page that has all of a joint is sent nothing of it, and of one with another position only what differs."""
        first = self.asked("joint=tee")
        have = ",".join(f"{name}:{mark}" for name, mark in first["have"].items())
        self.assertEqual(self.asked("joint=tee", have)["parts"], {})
        after = self.asked("joint=tee&title=Foot", have)
        self.assertEqual(set(after["parts"]), {"editor-more"})
        moved = self.asked("joint=tee&position=overhead", have)
        self.assertIn("row-current", moved["parts"])
        self.assertNotIn("editor-a", moved["parts"])

    def test_on_the_wire_under_40_kb(self) -> None:
        sent = self.client.get("/plan/answers?joint=tee&open=filler", headers={"Accept-Encoding": "gzip"})
        self.assertEqual(sent.headers["Content-Encoding"], "gzip")
        self.assertLess(len(sent.data), 40_000)

    def test_a_page_brings_its_own_parts_and_marks(self) -> None:
        text = self.client.get("/?joint=tee").get_data(as_text=True)
        marks = dict(re.findall(r'data-part="([^"]+)" data-have="([0-9a-f]{8})"', text))
        self.assertEqual({k: v for k, v in marks.items() if not k.startswith("more-")}, self.asked("joint=tee")["have"])

    def test_refused_word(self) -> None:
        done = self.client.get("/plan/answers?joint=tee&a.thickness=banana")
        self.assertEqual(done.status_code, 422)
        problem = done.get_json()["problems"][0]
        self.assertEqual(problem["key"], "a.thickness")
        self.assertIn("16 ga", problem["sentence"])

    def test_nearest_possible_is_offered(self) -> None:
        done = self.client.get("/plan/answers?joint=tube-cope&a.form=tube&a.diameter=60+mm&b.diameter=25+mm")
        self.assertEqual(done.get_json()["problems"][0]["nearest"], "25 mm")


class Elsewhere(WebCase):
    def test_what_should_not_happen_gets_a_sentence_too(self) -> None:
        self.app.config.update(TESTING=False, PROPAGATE_EXCEPTIONS=False)
        self.app.add_url_rule("/broken", "broken", lambda: 1 / 0)
        with self.assertLogs(self.app.logger, "ERROR"):
            done = self.client.get("/broken")
        self.assertEqual(done.status_code, 500)
        self.assertIn("nothing was changed", done.get_data(as_text=True))

    def test_no_such_page(self) -> None:
        done = self.client.get("/nowhere")
        self.assertEqual(done.status_code, 404)
        self.assertIn("There is no page here", done.get_data(as_text=True))

    def test_as_json_where_asked(self) -> None:
        self.assertIn("error", self.client.get("/nowhere", headers={"Accept": "application/json"}).get_json())

    def test_tables(self) -> None:
        self.assertEqual(self.client.get("/tables/").status_code, 200)


if __name__ == "__main__":
    unittest.main()
