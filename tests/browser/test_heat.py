"""Heat in time on the canvas: map, play, probe, settings to be tried, proposals, small screens."""

from playwright.sync_api import expect

from tests.browser.case import BrowserCase

CORNER = (
    "joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=1.5+mm&length=120+mm"
    "&pulse=slow-cold"
)
PAGE = "/heat/?link=" + CORNER.replace("&", "%26").replace("=", "%3D").replace("+", "%2B")
# Colours of the map: how many pixels are brighter than the cold sheet.
BRIGHT = """() => {
  const map = document.querySelector('heat-field').shadowRoot.querySelector('.map');
  const data = map.getContext('2d').getImageData(0, 0, map.width, map.height).data;
  let bright = 0;
  for (let i = 0; i < data.length; i += 4) { if (data[i] > 120) { bright += 1; } }
  return bright;
}"""


class Heat(BrowserCase):
    def open_heat(self, path: str = PAGE) -> None:
        self.open(path)
        expect(self.page.locator("heat-field .probe-words").first).to_contain_text("Probe at")

    def test_map_play_and_probe(self) -> None:
        self.open_heat()
        page = self.page
        self.until(f"({BRIGHT})() > 50")
        page.wait_for_timeout(1500)
        hot = page.evaluate(BRIGHT)
        scrub, clock = page.locator("heat-field .scrub"), page.locator("heat-field .clock")
        before = clock.inner_text()
        page.get_by_role("button", name="Play").click()
        expect(page.get_by_role("button", name="Pause")).to_be_visible()
        expect(clock).not_to_have_text(before)
        page.get_by_role("button", name="Pause").click()
        scrub.fill("1000")
        # The probe and the cover are bright too.
        self.until(f"({BRIGHT})() < 0.9 * {hot}")
        words = page.locator("heat-field .probe-words")
        expect(words).to_contain_text("at most")
        page.locator("heat-field .map").focus()
        text = words.inner_text()
        page.keyboard.press("ArrowUp")
        expect(words).not_to_have_text(text)
        page.locator("heat-field .map").click(position={"x": 40, "y": 40})
        self.assertNotEqual(words.inner_text(), text)
        self.assertRegex(page.locator(".heat-lines").inner_text(), "It freezes before the next")
        self.check_access()

    def test_tried_setting_is_calculated(self) -> None:
        self.open_heat()
        page = self.page
        lines = page.locator(".heat-lines")
        before = lines.inner_text()
        page.get_by_label("Travel speed").fill("1.6")
        expect(page.locator("output[for=try-travel_mm_s]")).to_have_text("1.6 mm/s")
        expect(lines).not_to_have_text(before)
        page.get_by_label("Bars from the seam").fill("0")
        expect(page.locator("output[for=try-bar_from_mm]")).to_have_text("none")
        page.get_by_label("Sheet beside the seam").fill("10")
        page.get_by_label("Bars from the seam").fill("15")
        expect(page.locator("heat-field .failed")).to_contain_text("outside the sheet")

    def test_proposal_goes_to_the_plan(self) -> None:
        self.open_heat()
        page = self.page
        page.get_by_role("link", name="Make it silver").click()
        box = page.locator("[data-heat-proposal]")
        # An empty box, then the progress, then the proposal.
        self.until(
            "(() => { const t = document.querySelector('[data-heat-proposal]').textContent;"
            " return t.endsWith('.') || t.endsWith('Use this'); })()"
        )
        self.assertNotIn("Trying", box.inner_text())
        use = page.get_by_role("link", name="Use this")
        if use.count():
            use.click()
            expect(page.locator("#plan")).to_be_visible()

    def test_in_the_plan_and_with_a_procedure(self) -> None:
        self.open_heat("/?" + CORNER + "&view=heat")
        self.assertEqual(self.page.locator("heat-field").count(), 1)
        self.page.get_by_role("button", name="Save draft").click()
        self.page.wait_for_url("**/procedures/P-0001/A")
        self.page.get_by_role("link", name="Documents").click()
        self.page.get_by_role("link", name="Heat in time").click()
        expect(self.page.locator("heat-field .probe-words")).to_contain_text("Probe at")

    def test_phone_dark_and_two_in_step(self) -> None:
        self.page.set_viewport_size({"width": 390, "height": 844})
        self.page.emulate_media(color_scheme="dark")
        self.open_heat(PAGE + "&right=" + PAGE.split("link=")[1].replace("1.5", "2"))
        page = self.page
        expect(page.locator("heat-field .probe-words").nth(1)).to_contain_text("Probe at")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        page.locator("heat-field .scrub").first.fill("300")
        clocks = page.locator("heat-field .clock")
        expect(clocks.nth(1)).to_have_text(clocks.first.inner_text())
        box = page.get_by_role("button", name="Play").first.bounding_box()
        assert box is not None
        self.assertGreaterEqual(box["height"], 44)
