"""The bench in the real browser.

A cut typed and rotated, tacks ticked without the server, a purge with a simulated meter to its end.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from urllib.parse import quote

from tests.browser.case import BrowserCase
from wisearc.simulators.oxygen_meter import AIR, Behind, Meter, simulate_readings

STAY = (
    "joint=tube-cope&a.form=tube&a.metal=316L&a.thickness=1.2+mm&a.diameter=25+mm&"
    "b.thickness=1.5+mm&b.diameter=51+mm&length=all-round&angle_deg=45"
)
CUT = "/templates/?kind=cope&branch=25+mm&wall=1.2+mm&run=51+mm&angle=45"


class Cut(BrowserCase):
    def answered(self, act) -> None:
        with self.page.expect_response(
            lambda r: r.request.resource_type == "fetch" and "/templates/" in r.url
        ):
            act()

    def picture(self) -> str:
        return self.page.locator(".cut-picture").inner_html()

    def test_typed_shown_at_once_and_back(self) -> None:
        page = self.page
        self.open(CUT)
        angle = page.locator("#f-angle")
        self.answered(lambda: angle.fill("60"))
        page.locator(".part-sheet", has_text="at 60°").wait_for()
        angle.press("Enter")
        page.get_by_role("link", name="hole in the header").click()
        page.locator(".part-sheet", has_text="Unrolled: hole in the header").wait_for()
        self.assertIn("part=hole", page.url)
        page.go_back()
        page.locator(".part-sheet", has_text="Unrolled: Tube end").wait_for()
        self.assertIn("angle=60", page.url)

    def test_input_error_appears_at_the_field_and_keeps_the_entry(self) -> None:
        page = self.page
        self.open(CUT)
        page.locator("#f-offset").fill("14 mm")
        page.locator("#f-offset").press("Tab")
        page.get_by_text("This value is too large").wait_for()
        self.assertEqual(page.locator("#f-offset").input_value(), "14 mm")
        page.locator(".part-sheet", has_text="at 45°").wait_for()
        page.locator("#f-offset").fill("13 mm")
        page.locator("#f-offset").press("Tab")
        page.locator(".part-sheet", has_text="13 mm off centre").wait_for()
        self.assertEqual(page.get_by_text("This value is too large").count(), 0)
        page.get_by_text("knife edge").first.wait_for()

    def test_turned_by_keys_and_by_drag(self) -> None:
        page = self.page
        self.open(CUT)
        before = self.picture()
        page.locator(".cut-picture").focus()
        page.keyboard.press("ArrowRight")
        self.until("document.querySelector('[data-space]').dataset.turn === '40'")
        self.until(
            "document.querySelector('.cut-picture svg desc').textContent.includes('turned by 40')"
        )
        box = page.locator(".cut-picture").bounding_box()
        page.mouse.move(box["x"] + 100, box["y"] + 100)
        page.mouse.down()
        for step in range(10):
            page.mouse.move(box["x"] + 100 + 6 * step, box["y"] + 100 + 2 * step)
        page.mouse.up()
        self.until(
            "document.querySelector('.cut-picture svg desc').textContent.includes('turned by 13')"
        )
        self.assertNotEqual(before, self.picture())
        # The slider stops at its end.
        page.locator(".cut-picture").focus()
        for _ in range(12):
            page.keyboard.press("ArrowUp")
        self.until(
            "document.querySelector('.cut-picture svg desc').textContent.includes('from 85')"
        )

    def test_without_script(self) -> None:
        context = self.browser.new_context(java_script_enabled=False)
        page = context.new_page()
        page.goto(self.address + CUT)
        page.fill("#f-angle", "70")
        page.get_by_role("button", name="Draw").click()
        page.locator(".part-sheet", has_text="at 70°").wait_for()
        page.get_by_role("link", name="Turn left").click()
        self.assertIn("turn=15", page.url)
        context.close()

    def test_readable_by_all(self) -> None:
        for path in (CUT, "/templates/frame", "/templates/shims?diameters=51+mm,+x"):
            self.open(path)
            self.check_access()


class Tacks(BrowserCase):
    touch = True

    def test_a_line_ticked_without_the_server_is_sent_later(self) -> None:
        page, port = self.page, self.server.server_port
        self.open("/set-up/tacks?what=" + quote("joint=butt&length=300 mm"))
        self.check_access()
        sizes = page.evaluate(
            "[...document.querySelectorAll('.set-box')].map(e => e.getBoundingClientRect()).map(r"
            " => Math.min(r.width, r.height))"
        )
        self.assertGreaterEqual(min(sizes), 64)
        page.locator("#line-tack-1 .set-box").tap()
        page.locator("[data-count]").get_by_text("1 of").wait_for()
        self.until("localStorage.length === 0")
        self.stop()
        page.locator("#line-tack-2 .set-box").tap()
        page.get_by_text("This device saves the ticks").wait_for()
        self.serve(port)
        self.until("localStorage.length === 0")
        page.reload()
        page.locator("[data-count]").get_by_text("2 of").wait_for()

    def test_fit_up(self) -> None:
        page = self.page
        self.open("/set-up/fit-up?what=" + quote("joint=butt&length=300 mm"))
        page.fill("#gap", "0,1; 0.3")
        page.get_by_role("button", name="Calculate").click()
        page.get_by_text("near the limit").wait_for()
        self.check_access()
        page.get_by_role("link", name="Plan with this gap").click()
        page.locator("#sentence", has_text="0.3 mm").wait_for()


def air_until(released: threading.Event, of: Behind) -> Iterator[tuple[float, float]]:
    """Yield readings of air until released, however slow the browser is; then those of a purge."""
    waited_s = 0.0
    while not released.is_set():
        yield waited_s, AIR
        waited_s += 0.05
    for time_s, ppm in simulate_readings(of, 20):
        yield waited_s + time_s, ppm


class Purge(BrowserCase):
    def meter(self, of: Behind, released: threading.Event | None = None) -> Meter:
        made = Meter(lambda: air_until(released, of) if released else simulate_readings(of, 20))
        threading.Thread(target=made.serve, daemon=True).start()
        self.addCleanup(made.close)
        return made

    def open_gas(self, port: int, volume: str = "0.05") -> None:
        page = self.page
        self.open("/set-up/purge?what=" + quote(STAY))
        page.select_option("#p-shape", "told")
        page.wait_for_url("**shape=told**")
        page.fill("#p-volume-l", volume)
        page.fill("#p-lag-s", "0.2")
        page.get_by_role("button", name="Calculate").click()
        page.get_by_text("Gas on: start timer").wait_for()
        self.check_access()
        page.fill("#port", str(port))
        page.get_by_role("button", name="Gas on").click()
        page.wait_for_url("**/set-up/purge/*")

    def test_with_a_meter_to_the_end_with_the_server_restarted(self) -> None:
        page, released = self.page, threading.Event()
        behind = Behind(volume_l=0.05, flow_l_min=6, lag_s=0.2, mixing=0.7)
        self.open_gas(self.meter(behind, released).port)
        page.get_by_text("at the vent", exact=True).wait_for()
        page.get_by_role("button", name="Arc started").click()
        page.get_by_text("Not ready.").wait_for()
        released.set()
        self.check_access()
        port = self.server.server_port
        self.stop()
        page.get_by_text("No connection to Wise Arc. The clock continues").wait_for()
        clock = page.locator("[data-clock]").inner_text()
        self.until(f"document.querySelector('[data-clock]').textContent !== '{clock}'")
        self.serve(port)
        page.locator(".way-words", has_text="Start the arc").wait_for()
        self.until("document.querySelector('[data-silent]').textContent === ''")
        # The reason for the refusal disappears; the refused page showed it.
        self.until("document.querySelector('[data-held]') === null")
        page.get_by_role("button", name="Arc started").click()
        page.get_by_role("button", name="Arc stopped").click()
        page.get_by_role("button", name="Gas off").click()
        page.get_by_role("button", name="Turn off anyway").click()
        page.locator(".way-words", has_text="The next run of this procedure today").wait_for()
        self.check_access()

    def test_a_leak_and_a_meter_that_dies(self) -> None:
        page, meter = (
            self.page,
            self.meter(Behind(volume_l=0.05, flow_l_min=6, lag_s=0.2, leak_l_min=0.05)),
        )
        self.open_gas(meter.port)
        page.locator(".way .caution", has_text="There is a leak. The reading settles at").wait_for()
        meter.close()
        page.locator(".way .caution", has_text="tries again every 2 s").wait_for()
        page.get_by_role("button", name="Cancel purge").click()
        page.get_by_role("link", name="Purge again").click()
        page.get_by_text("Gas on: start timer").wait_for()
