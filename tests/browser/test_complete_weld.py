"""The complete path in a browser.

Sentence, answers, draft, run, verification, print; and robustness.
"""

import re
import unittest

from tests.browser.case import BrowserCase

CORNER = "/?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm"


class CompleteWeld(BrowserCase):
    def test_corner_from_sentence_to_print(self) -> None:
        page = self.page
        self.open("/plan")
        page.click("#word-a")
        self.answered(lambda: page.fill("#text-a-thickness", "16ga"))
        page.keyboard.press("Escape")
        page.click("#word-length")
        page.fill("#text-length", "380")
        page.wait_for_url(re.compile("length=380"))
        page.keyboard.press("Escape")
        self.assertIn("50 A", page.inner_text("#answer-current"))
        self.assertIn("380+mm", page.url)
        self.check_access()
        page.get_by_role("button", name="Save draft").click()
        page.wait_for_url("**/procedures/P-0001/A")
        self.check_access()
        self.open_runs()
        self.check_access()
        page.fill("#who", "R.T.")
        straw = page.locator("input[name=front][value=straw]")
        at = "box => box.getBoundingClientRect().top + window.scrollY"
        place = straw.evaluate(at)
        page.fill("#measured-arc_time_s", "118")
        page.fill("#measured-length_mm", "380")
        # The travel is shown below the tints. They stay where the user is about to touch them.
        page.get_by_text("That is a travel speed of").wait_for()
        self.assertEqual(straw.evaluate(at), place)
        straw.check()
        page.locator("input[name=back][value=silver]").check()
        page.get_by_role("button", name="Good: this verifies").click()
        page.wait_for_url("**taken=proved**")
        self.assertIn("is verified", page.inner_text(".taken"))
        self.check_access()
        page.get_by_role("link", name="Print").click()
        page.wait_for_url("**/print")
        self.check_access()
        for paper in ("A4", "Letter"):
            self.assertEqual(len(re.findall(rb"/Type\s*/Page\b", page.pdf(format=paper))), 1, paper)
        self.open("/procedures/")
        self.assertIn("verified", page.inner_text(".book"))
        self.check_access()

    def test_the_worst_sheet_is_still_one_page(self) -> None:
        page = self.page
        self.context.add_cookies([{"name": "habit", "value": "in", "url": self.address}])
        self.open(
            "/?joint=tube-cope&a.metal=304L&a.form=tube&a.thickness=0.8+mm&a.diameter=25+mm&b.metal=4130&b.form=tube&b.thickness=1.5+mm&b.diameter=51+mm"
            "&b.coating=zinc&length=all-round&angle_deg=45&position=fixed-tube&control=none&service=structural&back=flux&gap=.3+mm&filler=ER70S-2"
            "&pin.cup=5&pin.stickout_mm=14&pin.flow_l_min=20"
        )
        page.get_by_role("button", name="Save draft").click()
        page.wait_for_url("**/procedures/P-0001/A")
        self.open("/procedures/P-0001/A/print")
        for paper in ("A4", "Letter"):
            self.assertEqual(len(re.findall(rb"/Type\s*/Page\b", page.pdf(format=paper))), 1, paper)

    def test_tee_to_steel_by_keyboard_alone(self) -> None:
        page = self.page
        self.open("/plan")
        page.keyboard.press("j")
        page.wait_for_timeout(80)
        self.assertEqual(page.evaluate("document.activeElement.id"), "text-a-thickness")
        page.keyboard.press("Escape")
        self.assertEqual(page.evaluate("document.activeElement.id"), "word-a")
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        page.wait_for_timeout(80)
        self.assertEqual(page.evaluate("document.activeElement.id"), "text-b-thickness")
        page.keyboard.press("Tab")
        while page.evaluate("document.activeElement.value") != "mild-steel":
            self.answered(lambda: page.keyboard.press("ArrowRight"))
        page.keyboard.press("Escape")
        self.assertEqual(page.evaluate("document.activeElement.id"), "word-b")
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        page.wait_for_timeout(80)
        self.answered(lambda: page.keyboard.press("ArrowLeft"))
        self.assertIn("joint=tee", page.url)
        page.keyboard.press("Escape")
        self.assertIn("ER309L", page.inner_text("#answer-filler"))
        page.keyboard.press("Control+s")
        page.wait_for_url("**/procedures/P-0001/A")


class Bearing(BrowserCase):
    def test_back_reload_and_a_pasted_link(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-position")
        self.answered(lambda: page.check("#pick-position-overhead"))
        page.keyboard.press("Escape")
        changed = page.url
        self.assertIn("position=overhead", changed)
        self.answered(lambda: page.go_back())
        self.assertIn("flat", page.inner_text("#sentence"))
        self.answered(lambda: page.go_forward())
        page.reload()
        self.assertIn("overhead", page.inner_text("#sentence"))
        other = self.new_page()
        other.goto(changed)
        self.assertIn("overhead", other.inner_text("#sentence"))

    def test_two_quick_changes_are_both_applied(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-a")
        page.evaluate(
            "() => ['pick-a-metal-316L', 'pick-a-coating-paint'].forEach((id) =>"
            " document.getElementById(id).click())"
        )
        page.wait_for_url(re.compile("a.metal=316L.*a.coating=paint"))
        page.locator(".plan[aria-busy=false]").wait_for()
        self.assertIn("painted 316L", page.inner_text("#word-a"))

    def test_bad_entry_stays_in_its_field_and_answers_remain(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#word-a")
        before = page.inner_text("#answer-current")
        page.fill("#text-a-thickness", "banana")
        page.wait_for_timeout(500)
        self.assertEqual(page.locator(".field-error:visible").count(), 0)
        with page.expect_response(lambda r: r.status == 422):
            page.keyboard.press("Enter")
        page.wait_for_selector("#editor-a .field-error:visible")
        self.assertIn("16 ga", page.inner_text("#editor-a .field-error:visible"))
        self.assertEqual(page.input_value("#text-a-thickness"), "banana")
        self.assertEqual(page.inner_text("#answer-current"), before)
        self.check_access()
        self.answered(lambda: page.fill("#text-a-thickness", ".050"))
        self.assertEqual(page.locator("#editor-a .field-error:visible").count(), 0)

    def test_units_without_losing_place(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#row-gas")
        self.answered(lambda: page.keyboard.press("u"))
        self.assertIn("CFH", page.inner_text("#answer-gas"))
        self.assertTrue(page.is_visible("#more-gas"))
        page.reload()
        self.assertIn("CFH", page.inner_text("#answer-gas"))

    def test_server_restarted_in_the_middle(self) -> None:
        page = self.page
        self.open(CORNER)
        port = self.server.server_port
        self.stop()
        page.click("#word-gap")
        page.fill("#text-gap", "0.1")
        page.get_by_text("No connection to Wise Arc").wait_for()
        self.assertEqual(page.input_value("#text-gap"), "0.1")
        self.serve(port)
        self.answered(lambda: page.fill("#text-gap", "0.2"))
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Save draft").click()
        page.wait_for_url("**/procedures/P-0001/A")

    def test_typed_run_outlives_a_reload(self) -> None:
        page = self.page
        self.open(CORNER)
        page.get_by_role("button", name="Save draft").click()
        page.wait_for_url("**/procedures/P-0001/A")
        self.open_runs()
        page.fill("#notes", "half a story")
        page.locator("input[name=front][value=blue]").check()
        page.reload()
        page.wait_for_load_state("networkidle")
        self.assertEqual(page.input_value("#notes"), "half a story")
        self.assertTrue(page.locator("input[name=front][value=blue]").is_checked())

    def kept(self) -> str:
        """Save a draft, and return its address."""
        self.open(CORNER)
        self.page.get_by_role("button", name="Save draft").click()
        self.page.wait_for_url("**/procedures/P-0001/A")
        self.open_runs()
        return "/procedures/P-0001/A/runs"

    def test_units_switched_change_nothing_that_was_typed(self) -> None:
        page = self.page
        self.kept()
        page.fill("#set-flow_l_min", "12")
        page.fill("#measured-length_mm", "380")
        page.fill("#measured-arc_time_s", "95")
        for fault in ("pores", "hole", "undercut"):
            page.locator(f"input[value={fault}]").check()
        page.get_by_role("link", name="mm / in units").click()
        page.wait_for_load_state("networkidle")
        shown = [
            page.input_value(f"#{name}")
            for name in ("set-flow_l_min", "measured-length_mm", "measured-arc_time_s")
        ]
        self.assertEqual(shown, ["12 L/min", "380 mm", "95"])
        for fault in ("pores", "hole", "undercut"):
            self.assertTrue(page.locator(f"input[value={fault}]").is_checked())
        page.fill("#who", "R.T.")
        for face in ("front", "back"):
            page.locator(f"input[name={face}][value=straw]").check()
        page.get_by_role("button", name="not good yet").click()
        page.wait_for_url("**taken=run**")
        made = page.request.get(self.address + "/procedures/P-0001/A.json").json()["runs"][0]
        self.assertEqual(
            (made["set"]["flow_l_min"], made["measured"]["length_mm"], len(made["faults"])),
            (12, 380, 3),
        )

    def test_only_saved_entries_are_removed_from_the_device(self) -> None:
        page = self.page
        here = self.kept()
        page.fill("#notes", "half a story")
        self.open(here + "?taken=run&once=made-up")
        self.assertEqual(page.input_value("#notes"), "half a story")
        page.fill("#who", "R.T.")
        page.get_by_role("button", name="not good yet").click()
        page.locator("#error-front", has_text="Select the tint of the face").wait_for()
        for face in ("front", "back"):
            page.locator(f"input[name={face}][value=straw]").check()
        self.open(here)
        self.assertEqual(
            (page.input_value("#notes"), page.input_value("#who")), ("half a story", "R.T.")
        )
        self.assertTrue(page.locator("input[name=back][value=straw]").is_checked())
        page.get_by_role("button", name="not good yet").click()
        page.wait_for_url("**taken=run**")
        self.assertEqual((page.input_value("#notes"), page.input_value("#who")), ("", "R.T."))
        self.open(here)
        self.assertEqual(page.input_value("#notes"), "")

    def test_an_answer_that_was_lost(self) -> None:
        """The run is saved and its answer lost.

        Sent again after a reload, it is one run.
        """
        page = self.page
        here = self.kept()
        page.fill("#who", "R.T.")
        page.fill("#notes", "once")
        for face in ("front", "back"):
            page.locator(f"input[name={face}][value=straw]").check()
        sent = page.evaluate(
            "() => new URLSearchParams([...new FormData(document.querySelector('.run-form')),"
            " ['outcome', 'no']]).toString()"
        )
        self.context.request.post(
            self.address + here,
            data=sent,
            headers={"Content-Type": "application/x-www-form-urlencoded"},
            max_redirects=0,
        )
        page.reload()
        page.wait_for_load_state("networkidle")
        self.assertEqual(page.input_value("#notes"), "once")
        page.get_by_role("button", name="not good yet").click()
        page.wait_for_url("**taken=run**")
        file = page.request.get(f"{self.address}{here.removesuffix('/runs')}.json").json()
        self.assertEqual(len(file["runs"]), 1)

    def test_run_is_voided_and_procedure_archived_and_restored(self) -> None:
        page = self.page
        self.kept()
        page.fill("#who", "R.T.")
        for face in ("front", "back"):
            page.locator(f"input[name={face}][value=straw]").check()
        page.get_by_role("button", name="not good yet").click()
        page.wait_for_url("**taken=run**")
        page.get_by_text("Fix a mistake").click()
        page.get_by_label("Your initials").fill("K.S.")
        page.get_by_role("button", name="Void this run").click()
        page.get_by_text("it does not count").wait_for()
        self.check_access()
        page.get_by_role("button", name="Undo").click()
        page.get_by_text("it does not count").wait_for(state="detached")
        page.get_by_role("link", name="Changes").click()
        self.check_access()
        page.get_by_role("button", name="Archive").click()
        page.get_by_text("was archived on").wait_for()
        self.check_access()
        page.get_by_role("button", name="Restore").click()
        page.get_by_role("link", name="Changes").click()
        page.get_by_role("button", name="Archive").wait_for()

    def test_backup_and_check_run_from_the_shop_page(self) -> None:
        page = self.page
        here = self.kept()
        self.open("/shop/maintenance")
        self.check_access()
        page.get_by_role("button", name="Make backup").click()
        page.get_by_text("Library copied to").wait_for()
        self.open("/shop/maintenance")
        page.get_by_role("button", name="Export library").click()
        page.get_by_role("link", name="Save book").wait_for()
        self.check_access()
        with page.expect_download() as saved:
            page.get_by_role("link", name="Save book").click()
        saved.value.save_as(self.folder / "out.zip")
        self.open(here.replace("/runs", "/changes"))
        page.get_by_role("button", name="Archive").click()
        page.get_by_text("was archived on").wait_for()
        self.open("/shop/maintenance")
        page.get_by_role("button", name="Restore").last.click()
        self.check_access()
        page.get_by_role("button", name="Restore this backup").click()
        page.get_by_text("Library restored").wait_for()
        self.open("/procedures/")
        self.assertTrue(page.get_by_role("link", name="P-0001 A").is_visible())
        self.open("/shop/maintenance")
        page.set_input_files("#archive", self.folder / "out.zip")
        page.get_by_role("button", name="Import").click()
        page.get_by_text("0 new, 1 already here").wait_for()
        self.check_access()
        page.get_by_role("button", name="Import").click()
        page.get_by_text("already in the library: 1").wait_for()
        self.assertEqual([p.name for p in self.folder.glob("incoming*")], [])

    def test_keyboard_shortcuts_are_listed(self) -> None:
        self.open("/plan")
        self.page.keyboard.press("?")
        self.assertTrue(self.page.is_visible("#help"))
        self.check_access()
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("g")
        self.page.keyboard.press("r")
        self.page.wait_for_url("**/procedures/")

    def test_answers_open_and_another_way_is_taken(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#row-back")
        self.check_access()
        self.answered(lambda: page.get_by_role("link", name="Use argon purge").click())
        self.assertIn("back=purge", page.url)
        self.assertIn("manual", page.inner_text("#answer-back"))
        self.answered(lambda: page.get_by_role("link", name="Use recommended").first.click())
        self.assertNotIn("back=", page.url)


class Phone(BrowserCase):
    viewport = {"width": 390, "height": 844}  # noqa: RUF012

    def test_targets_are_large_enough(self) -> None:
        self.open(CORNER)
        self.page.click("#word-a")
        small = self.page.evaluate(
            "() => Array.from(document.querySelectorAll('button, .chip span, .btn,"
            " input[type=text], .place')).filter(e => e.offsetParent && !e.matches('.word') &&"
            " e.getBoundingClientRect().height < 43.5).map(e => e.outerHTML.slice(0, 90))"
        )
        self.assertEqual(small, [])


if __name__ == "__main__":
    unittest.main()
