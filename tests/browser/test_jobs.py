"""A job in the real browser.

Seams moved by keys and by drag, parts moved by both, the bench ticked, the search observed;
accessible, also on a phone.
"""

from __future__ import annotations

import threading
import time
from unittest.mock import patch

from tests.browser.case import BrowserCase
from tests.jobs import RIM, STAY, generated_job, job, seam
from wisearc.core.jobs.job_data import make_job
from wisearc.services.jobs import jobs
from wisearc.web.context import get_context
from wisearc.web.jobs import bench

DATA = job(
    seam("c1", side="left"),
    seam("c2", side="right"),
    seam("r1", RIM, after=["c1"]),
    seam("t1", STAY, ("c", "d"), face="bottom"),
)


class Jobs(BrowserCase):
    def made(self, data: dict = DATA) -> int:
        number = jobs.begin("Mast", job=make_job(data)).id
        get_context(self.app).store.close()
        return int(number)

    def order(self) -> list[str]:
        return self.page.eval_on_selector_all(".rung", "rows => rows.map(row => row.dataset.key)")

    def test_moved_by_keys_and_undone(self) -> None:
        self.open(f"/jobs/{self.made()}")
        before = self.order()
        self.page.locator(f"#why-{before[0]}").focus()
        self.page.keyboard.press("Alt+ArrowDown")
        self.page.locator("#told", has_text=f"{before[0]} moved to place 2").wait_for()
        self.assertEqual(self.order()[:2], [before[1], before[0]])
        self.page.keyboard.press("Alt+ArrowDown")
        self.page.locator("#told", has_text="moved to place 3").wait_for()
        self.assertEqual(self.order()[2], before[0])
        for key in (before[1], before[0]):
            self.page.get_by_role("button", name="Undo").click()
            self.until(
                f"document.querySelector('.rung').dataset.key === '{key}' &&"
                " document.querySelector('#told').innerText.includes('Undone')"
            )
        self.assertEqual(self.order(), before)

    def test_dragged_with_its_price_and_its_rule(self) -> None:
        self.open(f"/jobs/{self.made()}")
        before = self.order()
        grip = self.page.locator(f"#rung-{before[-1]} [data-grip]").bounding_box()
        first = self.page.locator(f"#rung-{before[0]}").bounding_box()
        mouse = self.page.mouse
        mouse.move(grip["x"] + 20, grip["y"] + 20)
        mouse.down()
        mouse.move(first["x"] + 20, first["y"] + 10, steps=4)
        self.page.locator("#told", has_text=f"{before[-1]} at place 1:").wait_for()
        mouse.up()
        self.page.locator("#told", has_text="moved to place 1").wait_for()
        self.assertEqual(self.order()[0], before[-1])

    def test_explain_position_opens_on_the_page(self) -> None:
        self.open(f"/jobs/{self.made()}")
        key = "t1"
        self.page.locator(f"#why-{key}").click()
        self.page.locator(".rung-why", has_text="place").wait_for()
        self.assertIn(f"at={key}", self.page.url)
        self.page.get_by_role("button", name="Pin last").click()
        self.page.locator("#told", has_text="pinned last").wait_for()
        self.assertEqual(self.order()[-1], key)
        self.page.go_back()
        self.until("!document.querySelector('.rung-why')")

    def test_parts_laid_by_keys_and_drag(self) -> None:
        number = self.made()
        self.open(f"/jobs/{number}")
        block = self.page.locator("[data-part-block='a']")
        at = [float(v) for v in block.get_attribute("data-at").split(",")]
        block.focus()
        self.page.keyboard.press("ArrowRight")
        self.until(
            "document.querySelector(\"[data-part-block='a']\").dataset.at.split(',')[0] >"
            f" {at[0] + 1}"
        )
        self.page.keyboard.press("Shift+ArrowDown")
        self.until(
            "document.querySelector(\"[data-part-block='a']\").dataset.at.split(',')[3] >"
            f" {at[3] + 1}"
        )
        box = block.bounding_box()
        mouse = self.page.mouse
        mouse.move(box["x"] + 10, box["y"] + 10)
        mouse.down()
        mouse.move(box["x"] + 90, box["y"] + 60, steps=3)
        mouse.up()
        self.until(
            "document.querySelector(\"[data-part-block='a']\").dataset.at.split(',')[0] >"
            f" {at[0] + 8}"
        )
        self.page.reload()
        self.until(
            "document.querySelector(\"[data-part-block='a']\").dataset.at.split(',')[0] >"
            f" {at[0] + 8}"
        )

    def test_ticked_at_the_bench_without_the_server_too(self) -> None:
        number = self.made()
        self.open(f"/jobs/{number}/bench")
        link, marked = self.page.locator("[data-next]"), self.page.locator(".run-now")
        self.assertTrue(link.is_hidden())
        self.page.locator(".set-box").first.click()
        self.page.locator("[data-count]", has_text="1 of 4 done").wait_for()
        # The next line is marked at once, and the link above the list opens it.
        second = self.page.locator("[data-line]").nth(1)
        self.assertEqual(marked.get_attribute("data-line"), second.get_attribute("data-line"))
        self.assertEqual(link.get_attribute("href"), f"#{second.get_attribute('id')}")
        self.assertIn(f"Next: {second.get_attribute('data-title')}", link.inner_text())
        self.page.context.set_offline(True)
        self.page.locator(".set-box").nth(1).click()
        self.page.locator("[data-count]", has_text="saved on this device").wait_for()
        self.page.context.set_offline(False)
        self.page.get_by_text("2 of 4 done", exact=True).wait_for()
        self.page.reload()
        self.page.get_by_text("2 of 4 done", exact=True).wait_for()

    def test_reload_drawn_before_the_tick_arrived_shows_it(self) -> None:
        number = self.made()
        self.open(f"/jobs/{number}/bench")
        drawn = threading.Event()
        ticked = threading.Event()
        tick, render = jobs.tick, bench.render_template

        def tick_after_drawing(*values: object) -> None:
            drawn.wait(20)
            tick(*values)
            ticked.set()

        def draw_before_tick(*names: str, **values: object) -> str:
            page = render(*names, **values)
            drawn.set()
            ticked.wait(20)
            time.sleep(0.2)  # The answer to the tick reaches the page first.
            return page

        with (
            patch.object(jobs, "tick", tick_after_drawing),
            patch.object(bench, "render_template", draw_before_tick),
        ):
            self.page.locator(".set-box").first.click()
            self.page.locator("[data-count]", has_text="1 of 4 done").wait_for()
            self.page.reload()
        self.page.get_by_text("1 of 4 done", exact=True).wait_for()
        # After a clock was set back, the time of a tick is later than now: no reload.
        key = f"ticks:job:{number}:answered"
        self.page.evaluate("key => sessionStorage.setItem(key, String(Date.now() + 3.6e6))", key)
        loads: list[str] = []
        self.page.on("load", lambda page: loads.append(page.url))
        self.page.reload()
        self.page.wait_for_timeout(500)
        self.assertEqual(len(loads), 1)

    def test_bettered_while_one_looks_and_stopped(self) -> None:
        self.open(f"/jobs/{self.made(generated_job(80, 2))}")
        self.page.locator("[data-searching]", has_text="improved").wait_for()
        self.page.get_by_role("button", name="Stop").click()
        self.page.locator(".job-search", has_text="Search stopped").wait_for()
        self.page.get_by_role("button", name="Continue search").click()
        self.page.locator("[data-searching]").wait_for()

    def test_accessible_on_every_page_and_no_wider_than_a_phone(self) -> None:
        number = self.made()
        for path in ("", "?at=r1", "/seams", "/bench", "/materials", "/distortion"):
            self.open(f"/jobs/{number}{path}")
            self.check_access()
        self.page.set_viewport_size({"width": 390, "height": 844})
        for path in ("", "?at=r1", "/seams", "/bench", "/materials", "/distortion"):
            self.open(f"/jobs/{number}{path}")
            self.assertLessEqual(
                self.page.evaluate("document.documentElement.scrollWidth"), 390, path
            )
        for path in ("/jobs/", "/jobs/materials"):
            self.open(path)
            self.check_access()
