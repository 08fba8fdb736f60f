"""Pages of the course: lessons, exercises, drills, own practice, and requests of a virtual seam."""

import html
import json
import re
from typing import Any

from tests.practised import lesson_piece
from tests.web.case import WebCase, build_client
from wisearc.core import catalogue
from wisearc.core.practice.exercises import GRINDS, build_grinds
from wisearc.core.practice.simulated_welder import simulate_weld
from wisearc.services.people import people
from wisearc.services.practice.tries import PASS_SCORE
from wisearc.store.models import Drilled, PracticeTry
from wisearc.web.context import get_context


class LearnCase(WebCase):
    def text(self, path: str) -> str:
        answer = self.client.get(path, follow_redirects=True)
        self.assertEqual(answer.status_code, 200, path)
        text: str = answer.get_data(as_text=True)
        return text

    def send(self, path: str, body: Any, code: int = 200) -> Any:
        token = self.token("/learn/beat")["csrf_token"]
        raw = body if isinstance(body, bytes) else json.dumps(body).encode()
        head = {"X-CSRFToken": token}
        answer = self.client.post(path, data=raw, headers=head, content_type="application/json")
        self.assertEqual(answer.status_code, code, answer.get_data(as_text=True)[:300])
        return json.loads(answer.get_data(as_text=True))


class Course(LearnCase):
    def test_every_lesson_is_complete_without_script(self) -> None:
        linked = 0
        for key, lesson in catalogue.load_lessons().items():
            text = self.text(f"/learn/lessons/{key}")
            plain = re.sub(r"<[^>]+>", "", text)
            for words in (lesson.name, *lesson.scrap, *lesson.judge, *lesson.change):
                self.assertIn(words.replace("'", "&#39;"), plain, key)
            self.assertGreaterEqual(text.count("<svg"), 1 + len(lesson.mistakes), key)
            for drill in lesson.drills:
                self.assertIn(f"/learn/drills/{drill}", text)
            linked += 'class="term"' in text
        self.assertGreater(linked, 10)

    def test_the_first_page_of_an_empty_library_opens_lesson_one(self) -> None:
        self.assertIn('href="/learn/lessons/torch"', self.text("/"))
        index = self.text("/learn/")
        self.assertIn("Start here", index)
        self.assertEqual(index.count('class="learn-number"'), len(catalogue.load_lessons()))

    def test_unknown_addresses(self) -> None:
        for path in (
            "/learn/lessons/none",
            "/learn/lessons/none/exercise",
            "/learn/drills/none",
            "/learn/seam?lesson=torch",
            "/learn/seam?lesson=none",
            "/learn/seam?kept=P-0404/A",
            "/learn/seam/track/9",
        ):
            self.assertEqual(self.client.get(path).status_code, 404, path)

    def test_old_address_of_a_drill(self) -> None:
        answer = self.client.get("/inspect/practice/restart")
        self.assertEqual(answer.headers["Location"], "/learn/drills/restart")

    def test_the_beat_keeps_its_limits(self) -> None:
        self.assertIn('value="90"', self.text("/learn/beat?pps=1.5"))
        for pps in ("0.1", "9", "x", "nan"):
            self.assertIn('value="60"', self.text(f"/learn/beat?pps={pps}"))


class Exercises(LearnCase):
    def answer(self, key: str, number: int, right: bool) -> Any:
        from wisearc.presenters.exercises import build_sheet

        sheet = build_sheet(catalogue.load_lessons()[key].exercise, number)
        given = {
            q.name: q.right if right else next(k for k, *_ in q.answers if k != q.right)
            for q in sheet.questions
        }
        page = f"/learn/lessons/{key}/exercise?n={number}"
        return self.post(page.split("?", maxsplit=1)[0], {"n": str(number), **given}, page)

    def test_right_answers_pass_the_lesson(self) -> None:
        for key in ("torch", "grind", "reading"):
            for number in (1, 2):
                text = self.answer(key, number, right=True).get_data(as_text=True)
                self.assertIn("100 points", text, key)
            self.assertIn("The lesson is passed on the screen", text)
            self.assertIn("passed: best 100", self.text(f"/learn/lessons/{key}"))

    def test_wrong_answers_show_the_right_ones(self) -> None:
        text = self.answer("reading", 5, right=False).get_data(as_text=True)
        self.assertIn("<b>0 points:</b>", text)
        self.assertEqual(text.count("The right answer is:"), 12)

    def test_a_wrong_tip_is_named(self) -> None:
        text = self.answer("grind", 5, right=False).get_data(as_text=True)
        named = re.findall(r"The right answer is: [^<]*Yours: ([^<.]+)\.", text)
        self.assertEqual(len(named), text.count("The right answer is:"))
        self.assertTrue(set(named) <= set(GRINDS.values()), named)

    def test_sent_twice_is_one_try(self) -> None:
        for _ in range(2):
            self.answer("grind", 8, right=True)
        self.assertEqual(PracticeTry.select().count(), 1)

    def test_a_missing_answer_loses_nothing(self) -> None:
        page = "/learn/lessons/grind/exercise?n=4"
        first = build_grinds(4)[0].grinds[1]
        form = {"n": "4", "tip-0": first}
        answer = self.post("/learn/lessons/grind/exercise", form, page)
        text = answer.get_data(as_text=True)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Some questions have no answer", text)
        self.assertRegex(text, rf'name="tip-0" value="{first}" checked')
        self.assertEqual(PracticeTry.select().count(), 0)

    def test_another_one_each_time(self) -> None:
        first, second = (
            self.client.get("/learn/lessons/torch/exercise").headers["Location"] for _ in range(2)
        )
        self.assertNotEqual(first, second)
        answer = self.client.get("/learn/lessons/flat/exercise")
        self.assertIn("lesson=flat", answer.headers["Location"])


class DrillPages(LearnCase):
    def test_a_drill(self) -> None:
        at = "/learn/drills/restart"
        self.assertEqual(self.post(at, {"value": "fast"}, at).status_code, 422)
        for value in ("3", "1,8", "1.9", "2"):
            self.assertEqual(self.post(at, {"value": value}, at).status_code, 303)
        self.assertIn("3 in a row within the target", self.text(at))
        self.assertIn("Lesson 5: Restart in the crater", self.text(at))
        last = Drilled.select().order_by(Drilled.id.desc()).first().id
        self.post(f"{at}/{last}", {}, at)
        self.assertIn("2 of 3 in a row within the target", self.text(at))
        self.post(f"{at}/{last}", {"back": "yes"}, at)
        self.assertIn("3 in a row within the target", self.text(at))
        # Another device sees and removes nothing of it.
        other = build_client(self.app)
        self.assertNotIn("in a row within", other.get(at).get_data(as_text=True))


class Own(LearnCase):
    def tried(self, key: str = "torch") -> None:
        Exercises.answer(self, key, 1, right=True)  # type: ignore[arg-type]

    def test_export_remove_undo_and_delete(self) -> None:
        self.tried()
        page = "/learn/own"
        self.assertIn("Assemble the torch", self.text(page))
        self.assertEqual(len(json.loads(self.text("/learn/own/practice.json"))["tries"]), 1)
        number = PracticeTry.select().first().id
        self.post(f"/learn/own/{number}", {}, page)
        self.assertIn("No try yet", self.text(page))
        self.post(f"/learn/own/{number}", {"back": "yes"}, page)
        self.assertNotIn("No try yet", self.text(page))
        self.post("/learn/own/delete", {}, page)
        self.assertEqual(PracticeTry.select().count(), 0)

    def test_another_device_sees_nothing_until_the_pin(self) -> None:
        people.enter("R.T.", "", "welder", "246810")
        people.enter("B.O.", "", "lead", "135791")
        self.tried()
        first, other = self.client, build_client(self.app)
        self.client = other
        self.assertIn("No try yet", self.text("/learn/own"))
        self.client = first
        for initials, pin, words in (
            ("R.T.", "111111", "Wrong PIN"),
            # The PIN of a lead does not open the practice of another person.
            ("R.T.", "135791", "Wrong PIN"),
            ("X.X.", "246810", "have no PIN"),
        ):
            form = {"initials": initials, "pin": pin}
            answer = self.post("/learn/own/open", form, "/learn/own")
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.get_data(as_text=True))
        form = {"initials": "rt", "pin": "246810", "take": "yes"}
        self.assertEqual(self.post("/learn/own/open", form, "/learn/own").status_code, 303)
        self.assertIn("Opened with the PIN of R.T.", self.text("/learn/own"))
        self.client = other
        self._csrf_token = ""
        self.post("/learn/own/open", {**form, "take": ""}, "/learn/own")
        self.assertIn("Assemble the torch", self.text("/learn/own"))
        self.post("/learn/own/close", {}, "/learn/own")
        self.assertIn("No try yet", self.text("/learn/own"))

    def test_the_cookie_is_a_secret(self) -> None:
        self.tried()
        cookies = [c for c in self.client._cookies.values() if "learner" in c.key]  # type: ignore[union-attr]
        self.assertEqual(len(cookies), 1)
        self.assertTrue(cookies[0].http_only)
        self.assertNotIn(cookies[0].value, PracticeTry.select().first().learner)


class Seam(LearnCase):
    KEY = "k" * 32

    def test_from_open_to_judged(self) -> None:
        track = simulate_weld(lesson_piece("taper", 25.0)).track
        body = self.send("/learn/seam/open?lesson=taper", {"seam": self.KEY})
        self.assertEqual(body["piece"]["length_mm"], 25.0)
        samples = track.samples.tolist()
        frame = self.send("/learn/seam/step", {"seam": self.KEY, "samples": samples[:200]})
        self.assertEqual(frame["n"], 199)
        judged = self.send(
            "/learn/seam/judge?lesson=taper", {"samples": samples, "dabs": [], "once": "o" * 16}
        )
        self.assertEqual((judged["text"]["score"], judged["text"]["number"]), (100, "Try 1"))
        self.assertIn("first try", judged["text"]["since"])
        again = self.send(
            "/learn/seam/judge?lesson=taper", {"samples": samples, "dabs": [], "once": "o" * 16}
        )
        self.assertEqual(again["number"], judged["number"])
        row = PracticeTry.select().first()
        self.assertEqual((row.lesson, row.kind, row.score), ("taper", "seam", 100.0))
        saved = json.loads(self.text(f"/learn/seam/track/{row.id}"))
        self.assertEqual(saved["format"], "wisearc/track")
        self.assertGreaterEqual(row.score, PASS_SCORE)
        self.assertIn("best so far 100", self.text("/learn/lessons/taper"))
        shown = self.send("/learn/seam/show?lesson=taper", {})
        self.assertGreater(len(shown["samples"]), 300)
        # Another device cannot read the track.
        self.assertEqual(build_client(self.app).get(f"/learn/seam/track/{row.id}").status_code, 404)

    def test_any_plan(self) -> None:
        saved = set()
        for joint in ("lap", "tee"):
            link = f"joint={joint}&a.metal=304L&a.form=sheet&a.thickness=1.5+mm&length=300+mm"
            found = re.search(r'href="(/learn/seam\?link=[^"]+)"', self.text("/plan?" + link))
            assert found is not None
            text = self.text(html.unescape(found[1]))
            self.assertRegex(text, rf"(?i)<title>[^<]*\b{joint}\b")
            saved |= set(re.findall(r'"saved_as": ?"([^"]+)"', text))
        # A try without connection is saved for its own joint.
        self.assertEqual(len(saved), 2)

    def test_a_link_without_a_valid_joint_has_no_seam(self) -> None:
        for query in ("", "?link=joint%3Dlap%26gap%3Dwide"):
            answer = self.client.get("/learn/seam" + query)
            self.assertEqual(answer.status_code, 404, query)
            self.assertIn("contains no joint", answer.get_data(as_text=True))

    def test_bad_requests_have_one_sentence(self) -> None:
        for body, words in (
            (b"no", "cannot be read"),
            ({"samples": [[0, 1, 2]]}, "cannot be read"),
            ({"samples": [[0, 1, 2, 3]]}, "2 to 200000"),
            ({"seam": "<script>"}, "is not the key of a seam"),
        ):
            answer = self.send("/learn/seam/judge?lesson=flat", body, 422)
            self.assertIn(words, answer["error"])
        self.assertEqual(PracticeTry.select().count(), 0)

    def test_steps_need_an_opened_seam(self) -> None:
        path = "/learn/seam/step"
        step = json.dumps({"seam": self.KEY, "samples": [[0, 1, 0, 0]]})
        self.assertEqual(self.client.post(path, data=step).get_json(), {"no-seam": True})
        # Nobody reaches the process without a seam.
        self.assertIsNone(get_context(self.app).practice_seams._process)
        for data, code, words in (
            (b"x", 422, "cannot be read"),
            (b" " * 600_000, 422, "too many for one step"),
        ):
            answer = self.client.post(path, data=data)
            self.assertEqual(answer.status_code, code)
            self.assertIn(words, answer.get_json()["error"])
            self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")
        self.assertEqual(self.client.get(path).status_code, 404)
        self.send("/learn/seam/open?lesson=flat", {"seam": self.KEY})
        get_context(self.app).practice_seams.close()
        self.assertEqual(self.client.post(path, data=step).status_code, 503)

    def test_without_a_token_nothing_is_judged(self) -> None:
        answer = self.client.post("/learn/seam/judge?lesson=flat", data=b"{}")
        self.assertEqual(answer.status_code, 400)


class Beat(LearnCase):
    def test_judged_and_saved(self) -> None:
        body = {"pps": 1.0, "taps": [n + 0.02 for n in range(8)], "once": "b" * 12}
        answer = self.send("/learn/beat", body)
        self.assertEqual(answer["score"], 100)
        self.assertIn("20 ms late", answer["words"])
        self.assertEqual(PracticeTry.select().first().kind, "beat")

    def test_bad_taps(self) -> None:
        for body, words in (
            ({"pps": 1.0, "taps": [1]}, "at least 6"),
            ({"pps": 9.0, "taps": [1]}, "from 0.4 to 2"),
            (b"x", "cannot be read"),
        ):
            self.assertIn(words, self.send("/learn/beat", body, 422)["error"])
