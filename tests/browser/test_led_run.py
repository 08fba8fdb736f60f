"""A run with both hands busy: led by the arc, sensed, by the clock, one step back, and cues."""

from __future__ import annotations

import random
import threading
from typing import Any

from tests.browser.case import BrowserCase
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.core.weld_session.course import ANY_STEP, SIGNALS, RunEvent, replay_events
from wisearc.services.procedures import procedures
from wisearc.services.weld_session import weld_session
from wisearc.simulators.line import Line
from wisearc.simulators.power_source import Seam, simulate_rows

SHEET = {"metal": "304L", "form": "sheet", "thickness_mm": 1.5}
JOINT = {"joint": "butt", "pulse": "none", "length_mm": 30, "members": [SHEET, SHEET]}


class WeldCase(BrowserCase):
    joint: dict[str, Any] = JOINT

    def setUp(self) -> None:
        super().setUp()
        draft = procedures.keep_draft(make_joint(self.joint), ASSUMED)
        self.plan = make_plan(make_joint(self.joint), ASSUMED)
        self.what = f"kept:{draft.procedure.label}/{draft.letter}"
        self.address_of_run = f"/weld/at?what={self.what}"

    def open_run(self) -> None:
        self.open(self.address_of_run)
        self.page.locator("[data-run][data-ready=yes]").wait_for()

    def step(self, key: str) -> None:
        self.page.locator(f'[data-run][data-step="{key}"]').wait_for()

    def get_step(self) -> str:
        return str(self.page.locator("[data-run]").get_attribute("data-step"))

    def wait_for_acts(self, count: int) -> list[RunEvent]:
        """Wait until the server has this number of events of the only session."""
        acts: list[RunEvent] = []
        for _ in range(200):
            rows = weld_session.list_unrecorded()
            acts = weld_session.list_acts(rows[0][0]) if rows else []
            if len(acts) >= count:
                break
            self.page.wait_for_timeout(50)
        self.assertGreaterEqual(len(acts), count)
        return acts

    def choose(self, lead: str) -> None:
        self.page.locator(".at-lead [popovertarget=lead]").click()
        self.page.check(f"input[name=lead][value={lead}]")
        self.page.locator("#lead .editor-close").click()

    def serve_source(self, **more: Any) -> Line:
        seam = Seam(
            peak_a=self.plan.slopes.mean_a,
            background_a=0.0,
            rate_pps=1.0,
            preflow_s=0.2,
            postflow_s=1.0,
            slip=False,
            **more,
        )
        line = Line(lambda: simulate_rows(seam))
        self.addCleanup(line.close)
        threading.Thread(target=line.serve, daemon=True).start()
        return line


class LedByThePowerSource(WeldCase):
    def test_one_tap_and_the_arc_does_the_rest(self) -> None:
        """Two taps in all are allowed: start and done."""
        page = self.page
        line = self.serve_source(tacks=2, restarts=0, arc_s=8)
        self.open_run()
        page.locator(".at-lead [popovertarget=lead]").click()
        page.check("input[name=lead][value=arc]")
        page.fill("#lead input[name=port]", str(line.port))
        page.locator("#lead .editor-close").click()
        page.evaluate(
            "window.seen = []; new MutationObserver(() => window.seen.push(document.querySelector("
            "'[data-run]').dataset.step)).observe(document.querySelector('[data-run]'),"
            " { attributes: true, attributeFilter: ['data-step'] })"
        )
        page.locator(".at-main").click()
        page.locator(".trace-facts dt", has_text="Arc time").wait_for()
        self.until("['wait', 'done'].includes(document.querySelector('[data-run]').dataset.step)")
        self.assertIn("seam-1", page.evaluate("window.seen"))
        ((row, _),) = weld_session.list_unrecorded()
        # A page that is late draws only the last of several steps; the course has them all.
        steps = weld_session.build_subject_steps(self.plan, ASSUMED)
        course = replay_events(steps, weld_session.list_acts(row), 0.0)
        visited = [visit.step for visit in course.visits]
        for step in ("tack-2", "pool-1", "seam-1", "taper-1", "hold-1"):
            self.assertIn(step, visited)
        pressed = [a for a in weld_session.list_acts(row) if a.device != "source"]
        self.assertLessEqual(len(pressed), 2)
        self.assertEqual([a.key for a in weld_session.list_acts(row)].count("tack"), 2)
        if self.get_step() != "done":
            page.wait_for_timeout(400)
            page.locator(".at-main").click()
        self.step("done")
        page.locator("[data-came] dt", has_text="Current full after").wait_for()
        page.get_by_role("link", name="Record run").click()
        page.get_by_text("from the log").wait_for()

    def test_a_source_leads_one_run(self) -> None:
        """Two runs on one source: the newer one has it, and the older one shows that."""
        page, line = self.page, self.serve_source(arc_s=60, restarts=0)
        self.open_run()
        page.locator(".at-lead [popovertarget=lead]").click()
        page.check("input[name=lead][value=arc]")
        page.fill("#lead input[name=port]", str(line.port))
        page.locator("#lead").get_by_role("button", name="Connect").click()
        page.locator(".trace-facts dt", has_text="Arc time").wait_for()
        other = procedures.keep_draft(make_joint({**JOINT, "length_mm": 40}), ASSUMED)
        second = self.new_page()
        second.goto(f"{self.address}/weld/at?what=kept:{other.procedure.label}/{other.letter}")
        second.locator("[data-run][data-ready=yes]").wait_for()
        second.locator(".at-main").click()
        second.locator(".trace-facts dt", has_text="Arc time").wait_for()
        page.get_by_text("now leads another run").wait_for()
        rows = {row.id: row.port for row, _ in weld_session.list_unrecorded()}
        self.assertEqual(sorted(rows.values(), key=str), [line.port, None])


class ByTheClock(WeldCase):
    def test_one_tap_a_count_in_then_the_planned_times(self) -> None:
        page = self.page
        page.clock.install()
        self.open_run()
        self.choose("timed")
        page.locator("[data-cues-switch]").click()
        page.get_by_role("button", name="Already tacked").click()
        self.step("ready-1")
        # From here time runs only on demand, however slow this machine is.
        page.clock.pause_at(page.evaluate("Date.now()") / 1000 + 2)
        main = page.locator(".at-main")
        self.assertIn("Start the count-in", main.inner_text())
        main.click()
        page.clock.run_for(1500)
        self.assertEqual(page.locator("[data-clock]").inner_text(), "4")
        # A second tap cancels it.
        main.click()
        page.clock.run_for(6000)
        self.assertEqual(self.get_step(), "ready-1")
        main.click()
        page.clock.run_for(5200)
        self.step("pool-1")
        page.clock.run_for(2200)
        self.step("seam-1")
        seam_s = 30 / self.plan.travel.speed_mm_s
        page.clock.run_for(1000 * seam_s + 300)
        self.step("taper-1")
        self.assertEqual(page.locator("[data-run]").get_attribute("data-cue"), "Taper")
        page.clock.run_for(3500)
        self.step("hold-1")
        self.assertIn("Hold, ", str(page.locator("[data-run]").get_attribute("data-cue")))
        # The choice stays on this device.
        page.reload()
        page.locator("[data-run][data-ready=yes]").wait_for()
        self.assertIn("The clock moves", page.locator("[data-lead-line]").inner_text())


class KeysOfARun(WeldCase):
    def press(self, key: str) -> None:
        self.page.wait_for_timeout(400)
        if key.startswith("F"):
            # Playwright has no key for a pedal that types F13 and higher.
            self.page.evaluate(
                "key => document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles:"
                " true, cancelable: true }))",
                key,
            )
        else:
            self.page.keyboard.press(key)

    def test_pedal_keys_back_and_letters(self) -> None:
        page = self.page
        self.open_run()
        page.get_by_role("button", name="Already tacked").click()
        self.step("ready-1")
        for key, step in (("F13", "pool-1"), ("Backspace", "ready-1"), (" ", "pool-1")):
            self.press(key)
            self.step(step)
        self.press("F24")
        self.step("seam-1")
        # Letters of the application do not leave a run.
        for key in ("g", "p", "?"):
            self.press(key)
        self.assertIn("/weld/at", page.url)
        page.keyboard.press("Escape")
        # On screen, down to the first step, which has no step before it.
        for _ in range(8):
            page.wait_for_timeout(400)
            back = page.locator(".at-key[data-key=back]")
            if not back.count():
                break
            back.click()
        self.assertEqual(self.get_step(), "bars-on")
        page.wait_for_timeout(400)
        page.keyboard.press("Backspace")
        page.wait_for_timeout(200)
        self.assertEqual(self.get_step(), "bars-on")
        page.keyboard.press("F5")
        page.locator("[data-run][data-ready=yes]").wait_for()
        self.assertEqual(self.get_step(), "bars-on")
        self.assertIn("back", [a.key for a in self.wait_for_acts(6)])


class PurgeClock(WeldCase):
    joint = {  # noqa: RUF012
        "joint": "tube-butt",
        "length": "all-round",
        "members": [{"metal": "316L", "form": "tube", "thickness_mm": 1.5, "diameter_mm": 25}] * 2,
    }

    def test_it_starts_with_the_gas(self) -> None:
        page = self.page
        page.clock.install()
        self.open_run()
        page.clock.pause_at(page.evaluate("Date.now()") / 1000 + 2)
        page.clock.run_for(60_000)
        self.assertEqual(page.locator("[data-clock]").inner_text(), "0:00")
        page.locator(".at-main").click()
        self.step("purge-filling")
        page.clock.run_for(10_100)
        self.assertEqual(page.locator("[data-clock]").inner_text(), "0:10")
        page.clock.resume()
        page.get_by_text("Purge: ").wait_for()

    def test_a_purge_in_progress_is_taken_over(self) -> None:
        from wisearc.core.physics.purge import make_purging
        from wisearc.services.purge import purge_run
        from wisearc.services.purge.purge_forecast import build_ask

        ask = make_purging(build_ask(self.plan))
        purge_run.begin(self.what, "Tube", ask, None)
        self.open_run()
        self.assertEqual(self.get_step(), "purge-filling")
        self.page.locator(".at-main").click()
        self.step("purge-weld")
        self.assertEqual([a.key for a in self.wait_for_acts(2)], ["main", "main"])


class OneReplay(WeldCase):
    def test_page_and_server_replay_events_alike(self) -> None:
        """Two implementations of one rule: random events give the same step, start and rest."""
        self.open_run()
        steps = weld_session.build_subject_steps(self.plan, ASSUMED)
        chance = random.Random(7)
        for trial in range(150):
            events: list[RunEvent] = []
            now = 100.0
            for i in range(chance.randint(1, 25)):
                current = replay_events(steps, events, 100.0).step
                now += chance.choice((0.0, 0.5, 3.0, 9.0))
                if chance.random() < 0.5:
                    step, key = ANY_STEP, chance.choice(SIGNALS)
                else:
                    keys = [k.key for k in current.keys] or ["main"]
                    step = chance.choice((current.key, current.key, "seam-1"))
                    key = chance.choice((*keys, "back", "counted", "timed", "arc-on", "arc-off"))
                events.append(RunEvent(f"event-{trial}-{i:03}", "d", now, step, key))
            course = replay_events(steps, events, 100.0)
            told = self.page.evaluate(
                "([acts]) => { const data = JSON.parse(document.getElementById('run-data')"
                ".textContent); const r = window.arcReplay(data)(100, acts);"
                " return [r.step.key, r.since, r.aside, r.back]; }",
                [[{"id": e.id, "at": e.at, "step": e.step, "key": e.key} for e in events]],
            )
            here = course.visits[-1]
            self.assertEqual(
                told,
                [here.step, here.start, len(course.rejected), len(course.visits) > 1],
                [(e.step, e.key) for e in events],
            )
