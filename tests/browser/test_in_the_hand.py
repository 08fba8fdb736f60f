"""In daily use: what is seen at once, what stays under the hand, keys, focus, small screens, no script, a server that is down."""

import itertools
import re
import unittest

from wisearc.services import book, keeping, running
from wisearc.services.demo import fill_if_empty
from wisearc.store import queries

from tests.browser.case import BrowserCase
from tests.samples import run

CORNER = "/?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm"
# every control that Tab comes to: what it is, whether its focus is seen, where it stands
FOCUSED = """() => {
  const el = document.activeElement;
  if (!el || el === document.body) { return null; }
  const shown = el.matches('.chip input') ? el.nextElementSibling : el;
  const style = getComputedStyle(shown);
  const box = shown.getBoundingClientRect();
  const seen = style.outlineStyle !== 'none' && parseFloat(style.outlineWidth) >= 2;
  const column = el.closest('.answers') ? 1 : el.closest('.like') ? 2 : el.closest('.foot') ? 3 : el.closest('.top') ? -1 : 0;
  return {what: (el.id || el.className || el.tagName) + '|' + el.tagName, seen, column, top: box.top + window.scrollY, wide: box.width};
}"""


class AtOnce(BrowserCase):
    def test_all_answers_of_every_demo_joint_without_scrolling(self) -> None:
        fill_if_empty(self.app.extensions["store"])
        page = self.page
        for habit in ("mm", "in"):
            self.context.add_cookies([{"name": "habit", "value": habit, "url": self.address}])
            for number in range(1, 9):
                self.open("/?" + book.record(book.find(f"P-000{number}"), habit).link)
                below = page.locator("#row-technique").bounding_box()
                with self.subTest(number=number, habit=habit):
                    self.assertEqual(page.locator(".answer-box").count(), 12)
                    self.assertLessEqual(below["y"] + below["height"], page.locator(".foot").bounding_box()["y"])
        cut = "() => Array.from(document.querySelectorAll('.answers *')).filter(e => getComputedStyle(e).textOverflow === 'ellipsis' || e.scrollWidth > e.clientWidth + 1 && getComputedStyle(e).overflowX !== 'visible').length"
        self.assertEqual(page.evaluate(cut), 0)

    def test_the_card_stands_under_the_sentence(self) -> None:
        page = self.page
        for width, height in ((390, 844), (768, 1024), (1024, 768), (1280, 800)):
            page.set_viewport_size({"width": width, "height": height})
            self.open(CORNER)
            sentence, card, drawing = (page.locator(name).bounding_box() for name in ("#sentence", ".dial", "#views"))
            with self.subTest(width=width):
                self.assertLess(card["y"] - sentence["y"] - sentence["height"], 24)
                self.assertLessEqual(card["y"] + card["height"], height)
                self.assertGreaterEqual(drawing["y"], card["y"] + card["height"])
                size = page.evaluate("parseFloat(getComputedStyle(document.querySelector('.dial-set dd b')).fontSize)")
                self.assertGreaterEqual(size, 26)
        self.assertRegex(
            page.inner_text(".dial").replace("\n", " "),
            r"Set 110 A .*Pulses 2 a second On 30 % Background 10 % Argon 9.6 L/min Before 0.5 s After 6 s",
        )

    def test_nothing_scrolls_sideways(self) -> None:
        self.open(CORNER)
        self.page.get_by_role("button", name="Keep as draft").click()
        self.page.wait_for_url("**/keep/P-0001/A")
        for width in (320, 390, 768):
            self.page.set_viewport_size({"width": width, "height": 700})
            for path in (
                CORNER + "&pins.cup=6&open=torch,gas,filler",
                "/keep/",
                "/keep/P-0001/A",
                "/keep/begin",
                "/shop/",
                "/tables/",
                "/compare?left=joint%3Dtee&right=joint%3Dlap",
            ):
                self.open(path)
                with self.subTest(path=path, width=width):
                    self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), width)


class UnderTheHand(BrowserCase):
    def test_a_field_stays_till_it_is_done(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-more")
        page.focus("#text-more-travel-mm-s")
        page.keyboard.type("8 in/min", delay=120)
        self.assertEqual(page.evaluate("document.activeElement.id"), "text-more-travel-mm-s")
        self.assertEqual(page.input_value("#text-more-travel-mm-s"), "8 in/min")
        self.assertEqual(page.inner_text("#told"), "")
        self.answered(lambda: page.keyboard.press("Enter"))
        self.until("!document.querySelector('.editor:popover-open')")
        self.assertEqual(page.evaluate("document.activeElement.id"), "word-more")
        self.assertIn("travel 3.4 mm/s", page.inner_text("#sentence"))
        self.assertIn("travel_mm_s=3.38667", page.url)
        self.answered(lambda: page.go_back())
        self.assertNotIn("travel", page.inner_text("#sentence"))

    def test_letters_write_nothing_and_can_be_switched_off(self) -> None:
        page = self.page
        self.open(CORNER)
        for letter in "abcdefhijklmnopqrstvwxyz":
            page.keyboard.press(letter)
            page.keyboard.press("Escape")
        page.wait_for_timeout(300)
        self.assertEqual(queries.is_empty(), True)
        self.assertIn("a.thickness=16+ga", page.url)
        page.keyboard.press("?")
        page.get_by_role("link", name="Switch single-letter keys off").click()
        page.wait_for_load_state("networkidle")
        page.keyboard.press("?")
        self.assertFalse(page.is_visible("#help"))

    def test_what_a_change_did_is_seen_and_told(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#row-torch")
        row = page.locator("#row-torch")
        before = row.bounding_box()["y"]
        self.answered(page.get_by_role("link", name="Take no. 6").click)
        self.assertAlmostEqual(row.bounding_box()["y"], before, delta=2)
        self.assertIn("was gas lens, no. 8", row.inner_text())
        self.assertIn("was no. 8", page.inner_text(".dial-cup"))
        self.assertIn("Argon 9.6 L/min → 7.2 L/min; Cup no. 8 → no. 6.", page.inner_text("#told"))
        self.assertEqual(page.get_attribute("#told", "aria-live"), "polite")
        self.assertEqual(page.evaluate("document.activeElement.id"), "row-torch")
        self.answered(lambda: page.fill("#hand-pins-stickout-mm", "30") or page.keyboard.press("Enter"))
        page.get_by_text("Cup gas lens, 6 mm out → gas lens, 30 mm out. Stop: 30 mm out").wait_for()
        stop = page.locator("#cautions .caution-stop").first.bounding_box()
        self.assertTrue(0 <= stop["y"] < 740)
        self.assertEqual(page.evaluate("document.activeElement.id"), "hand-pins-stickout-mm")

    def test_a_refused_word_says_why_beside_it(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-length")
        page.fill("#text-length", "90000")
        page.get_by_role("button", name="Done").locator("visible=true").click()
        page.locator("#problems").wait_for()
        self.assertIn("Length, not taken: “90000” is 90000 mm; must be from 1 mm to 20000 mm.", page.inner_text("#problems"))
        self.assertTrue(page.is_visible("#editor-length"))
        page.keyboard.press("Escape")
        self.assertIn("word-wrong", page.get_attribute("#word-length", "class"))
        self.assertIn("380 mm long", page.inner_text("#sentence"))
        self.answered(page.get_by_role("link", name="Take 20000 mm").locator("visible=true").first.click)
        self.assertEqual(page.locator("#problems").count(), 0)

    def test_asks_and_takes_the_answer(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-a")
        page.fill("#text-a-thickness", "18")
        page.keyboard.press("Enter")
        self.answered(page.locator("#editor-a").get_by_role("link", name="Take 18 ga").click)
        self.assertEqual(page.input_value("#text-a-thickness"), "18 ga")

    def test_a_slow_hand_and_a_quick_one(self) -> None:
        """Keep pressed in the middle of typing keeps what was typed; pressed twice, it keeps once."""
        page = self.page
        self.open(CORNER)
        page.click("#word-length")
        page.fill("#text-length", "555")
        page.keyboard.press("Control+s")
        page.wait_for_url("**/keep/P-0001/A")
        self.assertIn("555 mm long", page.inner_text(".kept-sentence"))
        self.open(CORNER)
        page.locator("#keep").dblclick()
        page.wait_for_url("**/keep/P-0002/A")
        self.assertIsNone(queries.find_procedure(3))

    def test_back_with_the_server_down(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-position")
        self.answered(lambda: page.check("#pick-position-overhead"))
        page.keyboard.press("Escape")
        port = self.server.server_port
        self.stop()
        page.go_back()
        page.get_by_text("does not answer").wait_for()
        self.assertIn("lying flat", page.inner_text("#sentence"))
        self.assertNotIn("overhead", page.url)
        self.serve(port)
        self.answered(lambda: page.go_forward())
        self.assertIn("overhead", page.inner_text("#sentence"))

    def test_little_shifts(self) -> None:
        page = self.page
        self.open(CORNER)
        page.evaluate(
            "() => { window.shifted = 0; new PerformanceObserver((l) => l.getEntries().forEach((e) => { if (!e.hadRecentInput) { window.shifted += e.value; } })).observe({type: 'layout-shift', buffered: true}); }"
        )
        page.click("#row-back")
        for name in ("Take argon purge", "Back to the plan's own"):
            self.answered(page.get_by_role("link", name=name).first.click)
        page.click("#word-joint")
        self.answered(lambda: page.check("#pick-joint-lap"))
        page.wait_for_timeout(600)
        self.assertLess(page.evaluate("window.shifted"), 0.02)


class Focus(BrowserCase):
    def through(self, path: str, theme: str) -> list[dict]:
        """Every stop of Tab through a page."""
        page = self.page
        self.open(path)
        page.evaluate("t => document.documentElement.setAttribute('data-bs-theme', t)", theme)
        stops = []
        for _ in range(400):
            page.keyboard.press("Tab")
            stop = page.evaluate(FOCUSED)
            if stop is None or (stops and stop == stops[0]):
                break
            stops.append(stop)
        return stops

    def test_tab_through_every_page(self) -> None:
        self.open(CORNER)
        self.page.get_by_role("button", name="Keep as draft").click()
        self.page.wait_for_url("**/keep/P-0001/A")
        for i, path in enumerate(
            (
                CORNER + "&pins.cup=6&open=torch",
                "/keep/P-0001/A",
                "/keep/",
                "/shop/",
                "/tables/",
                "/keep/begin",
                "/compare?left=joint%3Dtee&right=joint%3Dlap",
            )
        ):
            stops = self.through(path, ("light", "dark")[i % 2])
            with self.subTest(path=path):
                self.assertGreater(len(stops), 8)
                self.assertEqual([s["what"] for s in stops if not s["seen"] and not s["what"].startswith("skip")], [])
                rows = [(s["column"], s["top"]) for s in stops if s["column"] in (0, 1)]
                # down the page, a line at a time, one column after the other
                self.assertEqual([s for s, t in itertools.pairwise(rows) if t[0] < s[0] or (t[0] == s[0] and t[1] < s[1] - 60)], [])

    def test_seen_in_forced_colours(self) -> None:
        self.page.emulate_media(forced_colors="active")
        self.assertEqual([s["what"] for s in self.through(CORNER, "light") if not s["seen"] and not s["what"].startswith("skip")], [])

    def test_a_word_opens_and_hands_focus_back(self) -> None:
        page = self.page
        self.open(CORNER)
        for key in ("Escape", "Enter"):
            page.focus("#word-gap")
            page.keyboard.press("Enter")
            self.until("document.activeElement.id === 'text-gap'")
            page.keyboard.press(key)
            self.until("document.activeElement.id === 'word-gap'")
            self.assertFalse(page.is_visible("#editor-gap"))

    def test_axe_in_every_state(self) -> None:
        page = self.page
        self.open("/?joint=tee&b.metal=mild-steel&filler=ER70S-2&pins.stickout_mm=30&open=filler,torch,gas")
        self.check_access()
        page.click("#word-a")
        self.check_access()
        page.fill("#text-a-thickness", "x")
        page.keyboard.press("Enter")
        page.locator("#problems").wait_for()
        self.check_access()
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        page.click("[popovertarget=help]")
        self.check_access()
        self.open("/keep/begin")
        self.check_access()
        self.open("/keep/")
        self.check_access()


class Thumb(BrowserCase):
    touch = True
    viewport = {"width": 390, "height": 844}  # noqa: RUF012

    def test_everything_is_within_reach(self) -> None:
        page = self.page
        self.open(CORNER)
        for name in ("Shop", "Tables", "mm / in, the units", "◐ light or dark", "Start afresh", "Wise Arc"):
            self.assertTrue(page.get_by_role("link", name=name, exact=True).is_visible(), name)
        self.assertTrue(page.get_by_role("button", name="? help").is_visible())
        self.assertTrue(page.get_by_role("link", name="Heat", exact=True).is_visible())
        page.get_by_role("button", name="Keep as draft").tap()
        page.wait_for_url("**/keep/P-0001/A")
        form, plan = (page.locator(name).bounding_box()["y"] for name in (".run-form", ".record-plan"))
        self.assertLess(form, plan)
        self.open("/keep/")
        self.assertIn("draft", page.inner_text(".cards"))
        self.assertIn("State", page.evaluate("getComputedStyle(document.querySelector('.cards [data-label=State]'), '::before').content"))

    def test_targets_are_large_and_do_not_touch(self) -> None:
        page = self.page
        small = """() => Array.from(document.querySelectorAll('button, a.btn, a.tool, .place, .chip > span:not(.visually-hidden), input[type=text], select, summary, .tab, .row-link'))
            .filter(e => e.checkVisibility() && e.getBoundingClientRect().width > 0 && !e.matches('.word')).map(e => [e, e.getBoundingClientRect()])
            .filter(([e, r]) => r.height < 43.5 || r.width < 43.5).map(([e]) => e.outerHTML.slice(0, 90))"""
        for path, act in (
            (CORNER + "&open=torch", None),
            (CORNER, "#word-a"),
            ("/keep/", None),
            ("/keep/P-0001/A", None),
            ("/shop/", None),
            ("/tables/", None),
        ):
            if path.startswith("/keep/P"):
                self.open(CORNER)
                page.get_by_role("button", name="Keep as draft").tap()
                page.wait_for_url("**/keep/P-0001/A")
            self.open(path)
            if act:
                page.tap(act)
            with self.subTest(path=path, act=act):
                self.assertEqual(page.evaluate(small), [])
        touching = """() => { const r = Array.from(document.querySelectorAll('.chip > span:not(.visually-hidden)')).filter(e => e.checkVisibility()).map(e => e.getBoundingClientRect());
            return r.flatMap((a, i) => r.slice(i + 1).filter(b => a.left < b.right + 4 && b.left < a.right + 4 && a.top < b.bottom + 4 && b.top < a.bottom + 4)).length; }"""
        self.open(CORNER)
        page.tap("#word-a")
        self.assertEqual(page.evaluate(touching), 0)
        words = "() => { const r = Array.from(document.querySelectorAll('.word')).map(e => e.getBoundingClientRect()); return r.flatMap((a, i) => r.slice(i + 1).filter(b => a.left < b.right && b.left < a.right && a.top < b.bottom - 1 && b.top < a.bottom - 1)).length; }"
        self.assertEqual(page.evaluate(words), 0)


class FewActs(BrowserCase):
    def test_a_first_procedure_and_its_run(self) -> None:
        """From the start page: 1.2 mm 316L, a lap, 140 mm, kept; then its run, good."""
        page, acts = self.page, 0

        def act(do) -> None:
            nonlocal acts
            acts += 1
            do()

        self.open("/")
        act(lambda: page.click("#word-a"))
        act(lambda: page.fill("#text-a-thickness", "1.2"))
        act(lambda: page.check("#pick-a-metal-316L"))
        act(lambda: page.keyboard.press("Escape"))
        act(lambda: page.click("#word-joint"))
        act(lambda: page.check("#pick-joint-lap"))
        act(lambda: page.keyboard.press("Escape"))
        act(lambda: page.click("#word-length"))
        act(lambda: page.fill("#text-length", "140"))
        act(lambda: page.keyboard.press("Enter"))
        act(lambda: page.keyboard.press("Control+s"))
        page.wait_for_url("**/keep/P-0001/A")
        self.assertLess(acts, 12)
        self.assertIn("Join 1.2 mm 316L sheet to the same at a lap, 140 mm long", page.inner_text(".kept-sentence"))
        acts = 0
        seconds = re.search(r"Arc time (?:(\d+) min )?(\d+) s", page.inner_text(".record-plan"))
        act(lambda: page.fill("#who", "R.T."))
        act(lambda: page.fill("#measured-length_mm", "140"))
        act(lambda: page.fill("#measured-arc_time_s", str(60 * int(seconds[1] or 0) + int(seconds[2]))))
        act(lambda: page.check("input[name=front][value=straw]"))
        act(lambda: page.check("input[name=back][value=silver]"))
        act(lambda: page.get_by_role("button", name="Good: this proves").click())
        page.wait_for_url("**taken=proved**")
        self.assertLess(acts, 10)


class Runs(BrowserCase):
    def kept(self) -> None:
        self.open(CORNER)
        self.page.get_by_role("button", name="Keep as draft").click()
        self.page.wait_for_url("**/keep/P-0001/A")

    def test_enter_files_nothing(self) -> None:
        self.kept()
        for field in ("#who", "#measured-length_mm", "#set-current_a"):
            self.page.fill(field, "12")
            self.page.keyboard.press("Enter")
        self.page.wait_for_timeout(400)
        self.assertEqual(queries.runs(queries.revision("P-0001")), [])

    def test_other_than_planned_is_told_and_becomes_a_draft_of_what_was_done(self) -> None:
        page = self.page
        self.kept()
        page.fill("#measured-length_mm", "380")
        page.fill("#measured-arc_time_s", "112")
        page.locator("[data-looked]").get_by_text("a travel of 3.4 mm/s").wait_for()
        page.fill("#set-current_a", "140")
        page.fill("#set-flow_l_min", "12")
        page.keyboard.press("Tab")
        page.locator("[data-looked]").get_by_text("Current set 140 A, held 99 A to 121 A; Argon 12 L/min").wait_for()
        page.fill("#who", "R.T.")
        page.check("input[name=front][value=straw]")
        page.check("input[name=back][value=silver]")
        page.get_by_role("button", name="Good: this proves").click()
        page.get_by_text("this was not the run that is planned").wait_for()
        self.check_access()
        page.get_by_role("button", name="Keep what was really done").click()
        page.wait_for_url("**taken=proved**")
        self.assertRegex(page.inner_text(".dial").replace("\n", " "), "Set 140 A .*Argon 12 L/min")
        self.open("/keep/P-0001/A/print")
        self.assertIn("current set 140 A; pulse rate 2 /s", page.inner_text(".runs"))

    def test_filled_in_at_a_tap_and_remembered(self) -> None:
        page = self.page
        self.kept()
        page.fill("#who", "K.S.")
        page.fill("#machine", "bench 200")
        page.fill("#set-current_a", "105")
        for face in ("front", "back"):
            page.check(f"input[name={face}][value=straw]")
        page.get_by_role("button", name="not good yet").click()
        page.wait_for_url("**taken=run**")
        self.assertEqual([page.input_value(f"#{name}") for name in ("who", "machine", "set-current_a")], ["K.S.", "bench 200", "105"])
        page.fill("#notes", "half a story")
        page.get_by_role("button", name="As planned").click()
        page.wait_for_load_state("networkidle")
        self.assertEqual(
            [page.input_value(f"#{name}") for name in ("notes", "who", "set-current_a", "used-rod")], ["half a story", "K.S.", "110", "none"]
        )
        page.get_by_role("button", name="As last time").click()
        page.wait_for_load_state("networkidle")
        self.assertEqual(page.input_value("#set-current_a"), "105")

    def test_corrected_by_its_writer(self) -> None:
        page = self.page
        self.kept()
        running.record_run("P-0001", "A", run(good=False))
        self.open("/keep/P-0001/A")
        page.get_by_text("Written down wrongly?").click()
        page.get_by_role("link", name="Correct it").click()
        page.fill("#set-flow_l_min", "9")
        page.fill("#corrected_by", "K.S.")
        page.get_by_role("button", name="Correct it").click()
        page.get_by_text("R.T. wrote this run down and corrects it").wait_for()
        self.check_access()
        page.fill("#corrected_by", "rt")
        page.get_by_role("button", name="Correct it").click()
        page.wait_for_url("**#run-**")
        self.assertRegex(page.inner_text(".run-figures"), r"Argon\s+9.6 L/min rt \d{4}-\d\d-\d\d 9 L/min")
        self.assertEqual(page.inner_text(".run-figures s"), "9.6 L/min")
        self.check_access()


class WithoutScript(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.context.close()
        self.context = self.browser.new_context(viewport=self.viewport, locale="en-GB", java_script_enabled=False)
        self.page = self.new_page()

    def test_plan_keep_record_print(self) -> None:
        page = self.page
        page.goto(self.address + "/")
        page.click("#word-a")
        page.fill("#text-a-thickness", "16 ga")
        page.check("#pick-a-metal-316L")
        page.locator("#done-a").click()
        page.get_by_role("button", name="16 ga (1.59 mm) 316L sheet").wait_for()
        page.click("#row-torch")
        page.get_by_role("link", name="Take no. 6").click()
        self.assertIn("no. 6", page.inner_text("#row-torch"))
        self.assertTrue(page.is_visible("#more-torch"))
        page.get_by_role("link", name="Back to the plan's own").first.click()
        self.assertIn("no. 8", page.inner_text("#row-torch"))
        page.get_by_role("link", name="Heat", exact=True).click()
        self.assertIn("How hot it gets", page.locator(".drawing svg").get_attribute("aria-label"))
        page.get_by_role("link", name="mm / in, the units").click()
        self.assertIn("CFH", page.inner_text(".dial"))
        page.get_by_role("link", name="mm / in, the units").click()
        page.get_by_role("button", name="Keep as draft").click()
        page.wait_for_url("**/keep/P-0001/A")
        page.fill("#who", "R.T.")
        made = keeping.plan_of(queries.revision("P-0001"))
        page.fill("#measured-length_mm", "300")
        page.fill("#measured-arc_time_s", str(round(made.travel.arc_time_s)))
        for face in ("front", "back"):
            page.locator(f"label:has(input[name={face}][value=straw])").click()
        page.get_by_role("button", name="Good: this proves").click()
        page.wait_for_url("**taken=proved**")
        page.get_by_role("link", name="Print").click()
        self.assertIn("PROVED", page.inner_text("main").upper())


if __name__ == "__main__":
    unittest.main()
