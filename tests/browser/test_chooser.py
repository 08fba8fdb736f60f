"""Planning in a browser.

Manual answers, another approach, comparison, drawings, a third member, tables, also on a phone.
"""

import unittest

from tests.browser.case import BrowserCase

CORNER = "/?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm"

TALL = (
    "/?joint=tube-cope&a.metal=4130&a.form=tube&a.thickness=1.2+mm&a.diameter=25+mm&b.metal=316L&b.form=tube&b.thickness=1.5+mm"
    "&b.diameter=51+mm&length=all-round"
)


class Chooser(BrowserCase):
    def test_pin_follow_release(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#row-torch")
        self.answered(lambda: page.select_option("#hand-pins-cup", "6"))
        self.assertIn("pins.cup=6", page.url)
        self.assertIn("7.2 L/min", page.inner_text("#answer-gas"))
        self.assertIn("This also changes", page.inner_text("#more-torch"))
        page.fill("#hand-pins-stickout-mm", "14")
        self.answered(lambda: page.keyboard.press("Enter"))
        self.assertIn("is long for a no. 6", page.inner_text("#more-torch"))
        self.check_access()
        page.reload()
        self.assertIn("no. 6", page.inner_text("#answer-torch"))
        page.click("#row-torch")
        self.answered(lambda: page.get_by_role("link", name="Use recommended").first.click())
        self.assertNotIn("pins.cup", page.url)

    def test_wrong_pin_is_reported_at_its_field(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#row-gas")
        page.fill("#hand-pins-flow-l-min", "lots")
        page.keyboard.press("Enter")
        page.locator("#more-gas .field-error:visible").wait_for()
        self.assertIn("9.5 L/min or 20 CFH", page.inner_text("#more-gas .field-error:visible"))
        self.assertEqual(page.input_value("#hand-pins-flow-l-min"), "lots")
        self.assertIn("Flow (L/min), not used:", page.inner_text("#problems"))

    def test_the_line_under_the_finger_stays(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#row-back")
        button = page.get_by_role("link", name="Use no cover")
        button.scroll_into_view_if_needed()
        page.wait_for_timeout(150)
        before = page.evaluate("document.getElementById('answer-back').getBoundingClientRect().top")
        self.answered(button.click)
        after = page.evaluate("document.getElementById('answer-back').getBoundingClientRect().top")
        self.assertAlmostEqual(before, after, delta=2)

    def test_compare_from_an_answer_and_by_holding(self) -> None:
        page = self.page
        self.open(CORNER)
        page.click("#row-pulse")
        page.get_by_role("link", name="Compare with none").click()
        page.wait_for_url("**/compare?**")
        self.assertIn("more in the second", page.inner_text("main"))
        self.check_access()
        page.get_by_role("link", name="Plan with the second").click()
        page.wait_for_load_state("networkidle")
        self.assertIn("pulse=none", page.url)
        self.answered(page.get_by_role("link", name="Select to compare").click)
        page.click("#word-position")
        self.answered(lambda: page.check("#pick-position-overhead"))
        page.keyboard.press("Escape")
        page.get_by_role("link", name="Compare with selection").click()
        page.wait_for_url("**/compare?**")
        self.assertIn("overhead", page.inner_text("main"))
        page.go_back()
        page.get_by_role("link", name="Compare with selection").wait_for()

    def test_drawings_by_mouse_and_keys(self) -> None:
        page = self.page
        self.open(CORNER)
        for view, words in (
            ("seam", "tacks"),
            ("time", "Argon"),
            ("metal", "dilution"),
            ("heat", "across the seam"),
        ):
            self.answered(lambda view=view: page.click(f"#tab-{view}"))
            self.assertIn(words, page.locator(".drawing svg").get_attribute("aria-label"))
        self.check_access()
        page.focus("#tab-cut")
        self.answered(lambda: page.keyboard.press("Enter"))
        self.assertEqual(page.get_attribute("#tab-cut", "aria-current"), "true")
        self.assertEqual(page.evaluate("document.activeElement.id"), "tab-cut")
        self.answered(lambda: page.click("#tab-metal"))
        page.reload()
        self.assertEqual(page.get_attribute("#tab-metal", "aria-current"), "true")

    def test_third_member(self) -> None:
        page = self.page
        self.open("/?joint=tee&a.metal=304L&a.thickness=1.5+mm")
        page.click("#word-b")
        self.answered(lambda: page.click("#third-b"))
        self.assertIn("c.metal=304L", page.url)
        page.keyboard.press("Escape")
        page.click("#word-c")
        self.answered(lambda: page.click("#third-c"))
        self.assertNotIn("c.metal", page.url)

    def test_tables_are_searched(self) -> None:
        page = self.page
        self.open("/reference/")
        self.check_access()
        page.fill("#find", "er316l 18.6")
        page.wait_for_timeout(80)
        self.assertEqual(page.locator("[data-row]:visible").count(), 1)
        page.fill("#find", "zebra")
        page.get_by_text("No results").wait_for()
        self.open("/reference/sources")
        self.check_access()

    def test_shop_can_choose_an_approach(self) -> None:
        page = self.page
        self.open("/shop/preferences")
        self.check_access()
        page.get_by_role("button", name="Use this: rod as thick as the sheet").click()
        page.wait_for_url("**/shop/preferences#rod_school")
        self.open("/plan")
        self.assertIn("rod_school=equals-sheet", page.input_value("#change [name=link]"))


class Phone(BrowserCase):
    touch = True
    viewport = {"width": 390, "height": 844}  # noqa: RUF012

    def test_every_screen_fits(self) -> None:
        for path in (
            CORNER + "&view=heat&pins.cup=6",
            TALL,
            "/procedures/",
            "/compare?left=joint%3Dtee&right=joint%3Dlap",
            "/shop/",
            "/shop/starter",
            "/shop/people/",
            "/set-up/plan?joint=tee",
            "/reference/",
            "/reference/sources",
        ):
            self.open(path)
            self.assertLessEqual(
                self.page.evaluate("document.documentElement.scrollWidth"), 390, path
            )

    def test_word_by_thumb(self) -> None:
        page = self.page
        self.open(CORNER)
        page.tap("#word-joint")
        panel = page.locator("#editor-joint")
        self.assertGreaterEqual(panel.bounding_box()["y"] + panel.bounding_box()["height"], 840)
        self.answered(lambda: page.tap("#pick-joint-lap"))
        self.assertIn("a lap", page.inner_text("#sentence"))
        page.get_by_role("button", name="Done").tap()
        self.assertFalse(panel.is_visible())
        page.tap("#row-torch")
        self.answered(lambda: page.get_by_role("link", name="Use no. 6").tap())
        self.assertIn("pins.cup=6", page.url)


if __name__ == "__main__":
    unittest.main()
