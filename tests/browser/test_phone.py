"""Daily use.

Fields under the finger, announced changes, runs recorded and corrected, an unavailable server.
"""

import re
import unittest

from playwright.sync_api import Route

from tests.browser.case import BrowserCase
from tests.samples import run, typed
from wisearc.services.runs import runs
from wisearc.store import queries

CORNER = "/?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm"


class OnAPhone(BrowserCase):
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
        self.assertIn("travel speed 3.4 mm/s", page.inner_text("#sentence"))
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
        page.get_by_role("link", name="Turn single-letter keys off").click()
        page.wait_for_load_state("networkidle")
        page.keyboard.press("?")
        self.assertFalse(page.is_visible("#help"))

    def test_effect_of_a_change_is_marked_and_announced(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#row-torch")
        row = page.locator("#row-torch")
        before = row.bounding_box()["y"]
        self.answered(page.get_by_role("link", name="Use no. 6").click)
        self.assertAlmostEqual(row.bounding_box()["y"], before, delta=2)
        self.assertIn("was gas lens, no. 8", row.inner_text())
        self.assertIn("was no. 8", page.inner_text(".dial-cup"))
        self.assertIn("Argon 9.6 L/min → 7.2 L/min; Cup no. 8 → no. 6.", page.inner_text("#told"))
        self.assertEqual(page.get_attribute("#told", "aria-live"), "polite")
        self.assertEqual(page.evaluate("document.activeElement.id"), "row-torch")
        self.answered(
            lambda: page.fill("#hand-pins-stickout-mm", "30") or page.keyboard.press("Enter")
        )
        page.get_by_text(
            "Cup gas lens, stick-out 6 mm → gas lens, stick-out 30 mm. Stop: Do not weld: the"
            " stick-out is 30 mm"
        ).wait_for()
        stop = page.locator("#cautions .caution-stop").first.bounding_box()
        self.assertTrue(0 <= stop["y"] < 740)
        self.assertEqual(page.evaluate("document.activeElement.id"), "hand-pins-stickout-mm")

    def test_refused_choice_shows_its_reason(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-length")
        page.fill("#text-length", "90000")
        page.get_by_role("button", name="Done").locator("visible=true").click()
        page.locator("#problems").wait_for()
        self.assertIn(
            "Length, not used: “90000” is 90000 mm, but must be from 1 mm to 20000 mm.",
            page.inner_text("#problems"),
        )
        self.assertTrue(page.is_visible("#editor-length"))
        page.keyboard.press("Escape")
        self.assertIn("word-wrong", page.get_attribute("#word-length", "class"))
        self.assertIn("380 mm long", page.inner_text("#sentence"))
        self.answered(
            page.get_by_role("link", name="Use 20000 mm").locator("visible=true").first.click
        )
        self.assertEqual(page.locator("#problems").count(), 0)

    def test_asks_and_takes_the_answer(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-a")
        page.fill("#text-a-thickness", "18")
        page.keyboard.press("Enter")
        self.answered(page.locator("#editor-a").get_by_role("link", name="Use 18 ga").click)
        self.assertEqual(page.input_value("#text-a-thickness"), "18 ga")

    def test_slow_and_quick_answers_arrive_in_order(self) -> None:
        """Save during typing saves the typed text; pressed twice, it saves once."""
        page = self.page
        self.open(CORNER)
        page.click("#word-length")
        page.fill("#text-length", "555")
        page.keyboard.press("Control+s")
        page.wait_for_url("**/procedures/P-0001/A")
        self.assertIn("555 mm long", page.inner_text(".kept-sentence"))
        self.open(CORNER)
        page.locator("#keep").dblclick()
        page.wait_for_url("**/procedures/P-0002/A")
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
        page.get_by_text("No connection to Wise Arc").wait_for()
        self.assertIn("flat", page.inner_text("#sentence"))
        self.assertNotIn("overhead", page.url)
        self.serve(port)
        self.answered(lambda: page.go_forward())
        self.assertIn("overhead", page.inner_text("#sentence"))

    def test_little_shifts(self) -> None:
        page = self.page
        self.open(CORNER)
        # A slow machine can show the effect of a press late. That is no unexpected shift.
        page.evaluate(
            "() => { window.shifted = 0; window.pressed = -1e9; addEventListener('click', (e) => {"
            " window.pressed = e.timeStamp; }, true); new PerformanceObserver((l) =>"
            " l.getEntries().forEach((e) => { if (!e.hadRecentInput && e.startTime - window.pressed"
            " > 2000) { window.shifted += e.value; } })).observe({type: 'layout-shift', buffered:"
            " true}); }"
        )
        page.click("#row-back")
        for name in ("Use argon purge", "Use recommended"):
            self.answered(page.get_by_role("link", name=name).first.click)
        page.click("#word-joint")
        self.answered(lambda: page.check("#pick-joint-lap"))
        page.wait_for_timeout(2400)
        self.assertLess(page.evaluate("window.shifted"), 0.02)


class NumberOfActions(BrowserCase):
    def test_a_first_procedure_and_its_run(self) -> None:
        """From the start page: 1.2 mm 316L, a lap, 140 mm, saved; then its run, good."""
        page, acts = self.page, 0

        def act(do) -> None:
            nonlocal acts
            acts += 1
            do()

        self.open("/plan")
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
        page.wait_for_url("**/procedures/P-0001/A")
        self.assertLess(acts, 12)
        self.assertIn(
            "Join 1.2 mm 316L sheet to the same metal as a lap, 140 mm long",
            page.inner_text(".kept-sentence"),
        )
        acts = 0
        seconds = re.search(r"Arc time (?:(\d+) min )?(\d+) s", page.inner_text(".record-plan"))
        act(self.open_runs)
        act(lambda: page.fill("#who", "R.T."))
        act(lambda: page.fill("#measured-length_mm", "140"))
        act(
            lambda: page.fill(
                "#measured-arc_time_s", str(60 * int(seconds[1] or 0) + int(seconds[2]))
            )
        )
        act(lambda: page.check("input[name=front][value=straw]"))
        act(lambda: page.check("input[name=back][value=silver]"))
        act(lambda: page.get_by_role("button", name="Good: this verifies").click())
        page.wait_for_url("**taken=proved**")
        self.assertLess(acts, 10)


class Runs(BrowserCase):
    def kept(self) -> None:
        self.open(CORNER)
        self.page.get_by_role("button", name="Save draft").click()
        self.page.wait_for_url("**/procedures/P-0001/A")
        self.open_runs()

    def test_enter_files_nothing(self) -> None:
        self.kept()
        for field in ("#who", "#measured-length_mm", "#set-current_a"):
            self.page.fill(field, "12")
            self.page.keyboard.press("Enter")
        self.page.wait_for_timeout(400)
        self.assertEqual(queries.list_runs(queries.get_revision("P-0001")), [])

    def test_deviation_is_recorded_and_saved_as_a_draft(self) -> None:
        page = self.page
        self.kept()
        page.fill("#measured-length_mm", "380")
        page.fill("#measured-arc_time_s", "112")
        page.locator("[data-looked]").get_by_text("a travel speed of 3.4 mm/s").wait_for()
        page.fill("#set-current_a", "140")
        page.fill("#set-flow_l_min", "12")
        page.keyboard.press("Tab")
        page.locator("[data-looked]").get_by_text(
            "Current setting 140 A, allowed 99 A to 121 A; Argon 12 L/min"
        ).wait_for()
        page.fill("#who", "R.T.")
        page.check("input[name=front][value=straw]")
        page.check("input[name=back][value=silver]")
        page.get_by_role("button", name="Good: this verifies").click()
        page.get_by_text("This run differs from the plan").wait_for()
        self.check_access()
        page.get_by_role("button", name="Save the values of this run").click()
        page.wait_for_url("**/P-0001/B**")
        told = page.get_by_role("status").filter(has_text="Run recorded with revision A")
        self.assertGreater(told.bounding_box()["y"], 0)
        self.assertRegex(
            page.inner_text(".dial").replace("\n", " "), "Setting 140 A .*Argon 12 L/min"
        )
        self.assertIn("draft", page.inner_text("main").lower())
        # The run stays with its revision.
        self.open("/procedures/P-0001/A/runs")
        self.assertIn("good, not as planned", page.inner_text("#runs").lower())
        self.assertEqual(page.input_value("#measured-length_mm"), "")

    def test_a_late_answer_does_not_replace_a_newer_preview(self) -> None:
        page = self.page
        self.kept()
        preview = page.locator("[data-looked]")
        newer = preview.get_by_text("Current setting 150 A, allowed 99 A to 121 A")
        held: list[Route] = []

        def hold_first(route: Route) -> None:
            if held:
                route.continue_()
            else:
                held.append(route)

        preview.wait_for(state="attached")
        page.wait_for_load_state("networkidle")
        address = "**" + page.locator("form[data-look]").get_attribute("data-look")
        page.route(address, hold_first)
        for amps in ("140", "150"):
            page.fill("#set-current_a", amps)
            page.keyboard.press("Tab")
        newer.wait_for()
        with page.expect_response(address):
            held[0].continue_()
        page.wait_for_timeout(200)
        self.assertTrue(newer.is_visible())

    def test_an_old_preview_does_not_stay_without_an_answer(self) -> None:
        page = self.page
        self.kept()
        preview = page.locator("[data-looked]")
        different = preview.get_by_text("Different from the plan")
        missing = preview.get_by_text("Wise Arc did not compare your entries")
        page.fill("#set-current_a", "140")
        different.wait_for()
        address = "**" + page.locator("form[data-look]").get_attribute("data-look")
        for act in (
            lambda route: route.abort(),
            lambda route: route.fulfill(status=403, body="refused"),
        ):
            page.route(address, act)
            page.fill("#set-current_a", "150")
            missing.wait_for()
            self.assertFalse(different.is_visible())
            self.assertEqual(page.input_value("#set-current_a"), "150")
            page.unroute(address)
            page.fill("#set-current_a", "140")
            different.wait_for()
            self.assertFalse(missing.is_visible())

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
        self.assertEqual(
            [page.input_value(f"#{name}") for name in ("who", "machine", "set-current_a")],
            ["K.S.", "bench 200", "105"],
        )
        page.fill("#notes", "half a story")
        page.get_by_role("button", name="As planned").click()
        page.wait_for_load_state("networkidle")
        self.assertEqual(
            [
                page.input_value(f"#{name}")
                for name in ("notes", "who", "set-current_a", "used-rod")
            ],
            ["half a story", "K.S.", "110", "none"],
        )
        page.get_by_role("button", name="As in the last run").click()
        page.wait_for_load_state("networkidle")
        self.assertEqual(page.input_value("#set-current_a"), "105")

    def test_corrected_by_its_writer(self) -> None:
        page = self.page
        self.kept()
        runs.record_run("P-0001", "A", typed(run(good=False)))
        self.open("/procedures/P-0001/A/runs")
        page.get_by_text("Fix a mistake").click()
        page.get_by_role("link", name="Correct").click()
        page.fill("#set-flow_l_min", "9")
        page.fill("#corrected_by", "K.S.")
        page.get_by_role("button", name="Save correction").click()
        page.get_by_text("R.T. recorded this run and can correct it").wait_for()
        self.check_access()
        page.fill("#corrected_by", "rt")
        page.get_by_role("button", name="Save correction").click()
        page.wait_for_url("**#run-**")
        self.assertRegex(
            page.inner_text(".run-figures"), r"Argon\s+9.6 L/min rt \d{4}-\d\d-\d\d 9 L/min"
        )
        self.assertEqual(page.inner_text(".run-figures s"), "9.6 L/min")
        self.check_access()


if __name__ == "__main__":
    unittest.main()
