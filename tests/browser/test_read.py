"""Inspect in the real browser.

Choices, drags, the question, a change accepted and undone; without the server; statistics.
"""

from __future__ import annotations

from tests.browser.case import BrowserCase
from tests.samples import member, run, typed
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.procedures import procedures
from wisearc.services.runs import runs

BUTT = {
    "joint": "butt",
    "members": [member(thickness="1.5 mm")] * 2,
    "length": "100 mm",
    "control": "none",
    "pulse": "none",
}


class Read(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        procedures.keep_draft(make_joint(BUTT), ASSUMED)
        made, _ = runs.record_run(
            "P-0001", "A", typed(run(BUTT, good=False, faults=["grey"], front={"colour": "grey"}))
        )
        self.at = f"/inspect/P-0001/A/{made.id}"

    def expect_text(self, words: str) -> None:
        self.page.locator(".says", has_text=words).wait_for()

    def test_picked_asked_taken_and_undone(self) -> None:
        page = self.page
        self.open(self.at)
        self.expect_text("Post-flow 6 s → 8 s")
        self.check_access()
        page.evaluate("document.documentElement.setAttribute('data-bs-theme', 'light')")
        # By keyboard: a radio button, its neighbour by an arrow; the choice is in the address.
        page.locator(".where-row input[value=middle]").first.focus()
        page.keyboard.press("ArrowRight")
        self.until("location.search.includes('where.grey=end')")
        self.expect_text("Torch removed while the metal glowed")
        self.until("document.activeElement.value === 'end'")
        # Dragged along the seam.
        bar = page.locator("[data-where=grey] [data-bar]").bounding_box()
        page.mouse.move(bar["x"] + 0.1 * bar["width"], bar["y"] + 20)
        page.mouse.down()
        page.mouse.move(bar["x"] + 0.9 * bar["width"], bar["y"] + 20, steps=4)
        page.mouse.up()
        page.locator("[data-where=grey]", has_text="from 10 to 90 %").wait_for()
        # An answered question is not asked again.
        question = page.locator(".ask-one h3").inner_text()
        # An answer, and a flaw selected before it arrives: both count.
        page.evaluate(
            "document.querySelector('.ask-one button').click(); document.querySelector('#seen"
            " input[value=pores]').click()"
        )
        page.locator(".answered", has_text=question).wait_for()
        self.until("location.search.includes('faults=pores') && location.search.includes('told.')")
        page.reload()
        page.locator(".answered", has_text=question).wait_for()
        page.locator(".change-words").wait_for()
        words = page.locator(".change-words").inner_text()
        page.locator(".the-change button").click()
        page.locator(".read-kept", has_text=words).wait_for()
        page.locator(".read-kept").get_by_role("button", name="Undo").click()
        page.locator(".read-kept").wait_for(state="detached")
        self.expect_text(words)

    def test_choice_is_kept_without_the_server(self) -> None:
        page = self.page
        self.open(self.at)
        self.context.set_offline(True)
        page.locator("input[name=faults][value=pores]").focus()
        page.keyboard.press("Space")
        self.expect_text("No connection to Wise Arc")
        self.assertTrue(page.locator("input[name=faults][value=pores]").is_checked())
        self.context.set_offline(False)
        page.locator("input[name=faults][value=bowed]").focus()
        page.keyboard.press("Space")
        self.until("location.search.includes('pores') && location.search.includes('bowed')")
        page.locator(".says .silent").wait_for(state="detached")
        page.locator("#band").fill("wide")
        page.locator("#band").press("Tab")
        page.locator("#error-band").wait_for()
        self.assertEqual(page.locator("#band").input_value(), "wide")

    def test_statistics_are_displayed(self) -> None:
        for faults in (["restart"], ["restart"]):
            runs.record_run("P-0001", "A", typed(run(BUTT, good=False, faults=faults)))
        for _ in range(9):
            runs.record_run("P-0001", "A", typed(run(BUTT, machine="bench")))
        page = self.page
        for address in (
            "/inspect/statistics",
            "/inspect/shop-history/in-line/austenitic",
            "/learn/drills/restart",
        ):
            self.open(address)
            self.check_access()
        self.open("/inspect/statistics")
        page.get_by_role("link", name="Five restarts").first.click()
        page.get_by_label("Slowest pool").fill("1.6")
        page.get_by_role("button", name="Record attempt").click()
        page.locator(".tries", has_text="within the target").wait_for()

    def test_repair_of_a_flaw_that_was_just_selected(self) -> None:
        page = self.page
        self.open(self.at)
        page.locator("input[name=faults][value=undercut]").focus()
        page.keyboard.press("Space")
        page.locator(".repair", has_text="Fill the undercut").wait_for()
        page.locator(".says-repair a", has_text="fill the undercut").click()
        page.locator("summary", has_text="Record a repair").click()
        self.check_access()
        page.evaluate("document.documentElement.setAttribute('data-bs-theme', 'light')")
        page.locator("#repair-flaw").select_option("undercut")
        page.locator(".repair-form button").click()
        page.locator(".repair-form .field-error").first.wait_for()
        # The flaw stays selected, although the inspection is not saved.
        page.locator(".repair", has_text="Fill the undercut").wait_for()
        page.locator(".repair-form label.chip", has_text="not sound").click()
        page.locator("#repair-who").fill("R.T.")
        page.locator("#repair-length_mm").fill("12")
        page.locator(".repair-form button").click()
        page.locator(".repairs caption", has_text="Recorded repairs").wait_for()
        page.locator(".repair", has_text="Recorded: 1 of 2").wait_for()
        page.get_by_role("button", name="Remove the last one").click()
        page.locator(".repairs caption").wait_for(state="detached")
