"""A weld session in the real browser.

A simulated power source to the end with the server killed during the seam; keys without the server;
the guide; the record.
"""

from __future__ import annotations

import threading
from collections.abc import Callable

from playwright.sync_api import Route

from tests.browser.case import BrowserCase
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.procedures import procedures
from wisearc.simulators.line import Line
from wisearc.simulators.power_source import Seam, simulate_rows

SHEET = {"metal": "304L", "form": "sheet", "thickness_mm": 1.59}
JOINT = {
    "joint": "outside-corner",
    "pulse": "slow-cold",
    "length_mm": 60,
    "members": [SHEET, SHEET],
}


def answers(code: int, kind: str, body: str) -> Callable[[Route], None]:
    """Return a handler that answers in place of the application."""
    return lambda route: route.fulfill(status=code, content_type=kind, body=body)


class AtTheArc(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        draft = procedures.keep_draft(make_joint(JOINT), ASSUMED)
        self.plan = make_plan(make_joint(JOINT), ASSUMED)
        self.what = f"kept:{draft.procedure.label}/{draft.letter}"
        self.address_of_run = f"/weld/at?what={self.what}"

    def step(self, key: str) -> None:
        self.page.locator(f'[data-run][data-step="{key}"]').wait_for()

    def get_step(self) -> str:
        return str(self.page.locator("[data-run]").get_attribute("data-step"))

    def source(self, **more: object) -> Line:
        pulse = self.plan.pulse
        seam = Seam(
            peak_a=pulse.peak_a,
            background_a=pulse.background_a,
            rate_pps=pulse.rate_pps,
            on=pulse.on_pct / 100,
            postflow_s=self.plan.gas.postflow_s,
            slip=False,
            **more,
        )
        line = Line(lambda: simulate_rows(seam))
        self.addCleanup(line.close)
        threading.Thread(target=line.serve, daemon=True).start()
        return line

    def test_a_source_to_the_end_with_the_server_killed_in_mid_seam(self) -> None:
        page = self.page
        line = self.source(arc_s=12, restarts=0)
        self.open(self.address_of_run)
        page.locator(".at-lead [popovertarget=lead]").click()
        page.check("input[name=lead][value=arc]")
        page.locator("#lead input[name=port]").fill(str(line.port))
        page.get_by_role("button", name="Connect").click()
        page.get_by_role("button", name="Already tacked").click()
        # The arc starts by the source alone, and its current calls the pool.
        self.step("seam-1")
        page.locator(".trace-facts dt", has_text="Arc time").wait_for()
        port = self.server.server_port
        self.stop()
        page.wait_for_timeout(1200)
        self.assertEqual(self.get_step(), "seam-1")
        self.serve(port)
        # The source reconnects, its arc stops, the post-flow is counted, and the session waits.
        page.locator(
            '[data-run][data-step="hold-1"], [data-run][data-step="wait"],'
            ' [data-run][data-step="done"]'
        ).wait_for()
        for _ in range(3):
            if self.get_step() == "done":
                break
            page.wait_for_timeout(400)
            page.keyboard.press("x")
        page.get_by_role("link", name="Record run").click()
        page.get_by_text("from the log").wait_for()
        page.locator(".tint-pick", has_text="straw").first.click()
        page.locator(".write-tints").nth(1).locator(".tint-pick", has_text="silver").click()
        page.locator(".fault-pick", has_text="bowed").click()
        page.locator("#who").fill("K.M.")
        page.get_by_role("button", name="Not good").click()
        # A bad run continues with the inspection, its flaw already selected.
        page.locator(".says", has_text="Heat distortion of the sheet").wait_for()
        self.assertTrue(page.locator("#seen input[name=faults][value=bowed]").is_checked())
        page.get_by_role("link", name="Run", exact=True).click()
        page.locator(".record-list .run").wait_for()
        page.get_by_role("link", name="Arc log").click()
        page.locator(".log .drawing svg").wait_for()
        # The keys work from the end of the load.
        page.wait_for_load_state("load")
        shown = "document.querySelector('.log-moves span').textContent"
        before, drawn = page.evaluate(shown), page.locator(".log .drawing").inner_html()
        page.keyboard.press("+")
        self.until(f"{shown} !== {before!r}")
        self.assertNotEqual(page.locator(".log .drawing").inner_html(), drawn)
        page.go_back()
        self.until(f"{shown} === {before!r}")

    def test_without_the_server_nothing_is_lost(self) -> None:
        page = self.page
        self.open(self.address_of_run)
        self.step("bars-on")
        page.get_by_text("Saved on this device").wait_for()
        page.reload()
        self.step("bars-on")
        port = self.server.server_port
        self.stop()
        page.get_by_role("button", name="Already tacked").click()
        self.step("ready-1")
        page.get_by_text("saved on this device").wait_for()
        for key, step in (("Enter", "pool-1"), ("b", "seam-1"), (" ", "taper-1")):
            page.wait_for_timeout(400)
            page.keyboard.press(key)
            self.step(step)
        # The down-slope counts down automatically.
        self.step("hold-1")
        # A cached page knows its later events.
        page.reload()
        self.step("hold-1")
        page.locator(".phase-done", has_text="Seam").wait_for()
        self.serve(port)
        self.until("document.querySelector('[data-told]').textContent === ''")
        self.step("wait")
        page.reload()
        self.step("wait")
        # The summary replaces a part, because a page load would swallow a tap.
        page.evaluate("window.stays = true")
        page.wait_for_timeout(400)
        page.keyboard.press("x")
        page.locator("[data-came][data-fresh=yes] dt", has_text="Arc time").wait_for()
        page.get_by_role("link", name="Record run").wait_for()
        self.assertTrue(page.evaluate("window.stays"))
        from wisearc.services.weld_session import weld_session

        ((run, _),) = weld_session.list_unrecorded()
        self.assertEqual(
            [a.key for a in weld_session.list_acts(run)],
            ["skip", "main", "main", "main", "counted", "counted", "main"],
        )
        self.assertEqual(len({a.device for a in weld_session.list_acts(run)}), 1)

    def test_entries_saved_before_an_update_arrive_at_the_new_address(self) -> None:
        """A device has a page of an earlier version, which sends its entries to /run/acts."""
        from wisearc.services.weld_session import weld_session

        page = self.page

        def as_before(route: Route) -> None:
            sent = route.fetch()
            body = sent.text().replace('data-acts="/weld/acts"', 'data-acts="/run/acts"')
            route.fulfill(response=sent, body=body)

        page.route("**/weld/at**", as_before)
        self.open(self.address_of_run)
        self.assertEqual(page.get_attribute("#run-data", "data-acts"), "/run/acts")
        self.context.set_offline(True)
        page.get_by_role("button", name="Already tacked").click()
        page.get_by_text("saved on this device").wait_for()
        page.wait_for_timeout(400)
        page.keyboard.press("Enter")
        self.assertEqual(weld_session.list_unrecorded(), [])
        self.context.set_offline(False)
        page.evaluate("window.dispatchEvent(new Event('online'))")
        self.until("document.querySelector('[data-told]').textContent === ''")
        ((run, _),) = weld_session.list_unrecorded()
        self.assertEqual([a.key for a in weld_session.list_acts(run)], ["skip", "main"])

    def test_refused_events_are_saved_and_resent(self) -> None:
        from wisearc.services.weld_session import weld_session

        page = self.page
        self.open(self.address_of_run)
        refusals = (
            (403, "application/json", '{"error": "This device is not paired."}', "is not paired"),
            (502, "text/html", "<h1>no</h1>", "refused the request (502)"),
            (400, "text/plain", "no", "refused the request (400)"),
        )
        for code, kind, body, words in refusals:
            page.route("**/weld/acts", answers(code, kind, body))
            page.wait_for_timeout(400)
            if code == 403:
                page.get_by_role("button", name="Already tacked").click()
            elif code == 502:
                page.keyboard.press("x")
            else:
                page.evaluate("window.dispatchEvent(new Event('online'))")
            page.get_by_text(words).wait_for()
            page.get_by_text("sent again automatically").wait_for()
            page.unroute("**/weld/acts")
            page.route("**/weld/acts", lambda route: route.abort())
        kept = f"JSON.parse(localStorage.getItem('run:{self.what}:')).unsent.length"
        self.assertEqual(page.evaluate(kept), 2)
        self.assertEqual(weld_session.list_unrecorded(), [])
        page.unroute("**/weld/acts")
        # A page closed at the same time sends it too.
        page.reload()
        self.until(f"{kept} === 0")
        ((run, _),) = weld_session.list_unrecorded()
        self.assertEqual([a.key for a in weld_session.list_acts(run)], ["skip", "main"])
        self.errors.clear()

    def test_one_key_twice_at_once_is_one(self) -> None:
        page = self.page
        self.open(self.address_of_run)
        page.get_by_role("button", name="Already tacked").click()
        self.step("ready-1")
        page.wait_for_timeout(400)
        page.evaluate(
            "[1, 2].forEach(() => document.body.dispatchEvent(new KeyboardEvent('keydown', { key:"
            " 'x', bubbles: true })))"
        )
        self.step("pool-1")
        page.wait_for_timeout(100)
        self.assertEqual(self.get_step(), "pool-1")
        # Navigation keys press nothing.
        page.wait_for_timeout(400)
        for key in ("Tab", "Shift", "Escape", "ArrowDown"):
            page.keyboard.press(key)
        self.assertEqual(self.get_step(), "pool-1")
        # Beyond its limit the step shows stop.
        page.locator(".at-arc.late").wait_for()
        self.assertIn("You are only adding heat", page.locator("[data-warn]").inner_text())

    def test_the_beat_does_not_drift(self) -> None:
        """Half a minute by a clock of the test.

        Delays of the guide do not add up, whatever the machine does.
        """
        page = self.page
        page.clock.install()
        self.open(self.address_of_run)
        page.evaluate(
            "window.late = []; document.querySelector('[data-pace]').addEventListener('beat', (e)"
            " => window.late.push(e.detail.at - e.detail.due))"
        )
        page.get_by_role("button", name="Already tacked").click()
        page.wait_for_timeout(400)
        page.keyboard.press("x")
        page.wait_for_timeout(400)
        page.keyboard.press("x")
        self.step("seam-1")
        page.clock.pause_at(page.evaluate("Date.now()") / 1000 + 2)
        page.evaluate("window.late.length = 0")
        page.clock.run_for(30_000)
        late = page.evaluate("window.late")
        self.assertGreaterEqual(len(late), 30)
        # Timers count whole milliseconds.
        self.assertLess(max(map(abs, late)), 2)

    def test_pages_are_readable_on_a_phone_and_in_the_dark_theme(self) -> None:
        from tests.browser.case import AXE

        for width, dark in ((390, False), (820, True), (1280, False)):
            context = self.browser.new_context(
                viewport={"width": width, "height": 844},
                color_scheme="dark" if dark else "light",
                has_touch=True,
            )
            page = context.new_page()
            page.goto(self.address + self.address_of_run)
            page.locator("[data-step]").wait_for()
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), width)
            for button in page.locator(".at-key").all():
                self.assertGreaterEqual(button.bounding_box()["height"], 64)
            page.evaluate(AXE + ";0")
            found = page.evaluate(
                "axe.run().then((r) => r.violations.map((v) => v.id + ': ' + v.nodes.map((n) =>"
                " n.target).join(' ')))"
            )
            self.assertEqual(found, [])
            context.close()
