"""The real interface in Debian's Chromium, against a separate server."""

from __future__ import annotations

import atexit
import logging
import tempfile
import threading
from functools import cache
from pathlib import Path

from playwright.sync_api import Browser, Page, expect, sync_playwright
from werkzeug.serving import make_server

from tests.compiled import app_in
from tests.folders import fill
from tests.untraced import Untraced
from wisearc.store.database import db
from wisearc.web.context import get_context
from wisearc.web.gate import ADDRESSES, list_addresses

logging.getLogger("werkzeug").setLevel(logging.ERROR)
ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    # One process less for each browser.
    "--in-process-gpu",
]
# Other tests run beside a browser, and the worker of the heat map has a low priority.
MAX_WAIT_MS = 100_000
expect.set_options(timeout=MAX_WAIT_MS)
AXE = (Path(__file__).parent / "axe" / "axe.min.js").read_text(encoding="utf-8")


@cache
def shared_browser() -> Browser:
    """Return the browser of this process, which ends with it."""
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(
        executable_path="/usr/bin/chromium-headless-shell", headless=True, args=ARGS
    )
    atexit.register(lambda: (browser.close(), playwright.stop()))
    return browser


class BrowserCase(Untraced):
    """One browser for all classes of a process.

    Each test has a server, a context and an empty library.
    """

    touch = False
    viewport = {"width": 1280, "height": 800}  # noqa: RUF012

    @classmethod
    def setUpClass(cls) -> None:
        cls.browser = shared_browser()

    def setUp(self) -> None:
        self._folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.folder = Path(self._folder.name)
        fill(self.folder)
        self.serve()
        self.context = self.browser.new_context(
            viewport=self.viewport, locale="en-GB", has_touch=self.touch
        )
        self.context.set_default_timeout(MAX_WAIT_MS)
        self.page = self.new_page()

    def serve(self, port: int = 0) -> None:
        """Start the server."""
        self.app = app_in(self.folder)
        self.server = make_server("127.0.0.1", port, self.app, threaded=True)
        self.address = f"http://127.0.0.1:{self.server.server_port}"
        self.app.config[ADDRESSES] = list_addresses(self.server.server_port)
        threading.Thread(target=self.server.serve_forever, args=(0.03,), daemon=True).start()

    def stop(self) -> None:
        """Stop the server and its readers."""
        get_context(self.app).close()
        self.server.shutdown()
        self.server.server_close()

    def new_page(self) -> Page:
        """Return a page whose errors fail the test."""
        page = self.context.new_page()
        self.errors: list[str] = []
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on(
            "console",
            lambda m: (
                self.errors.append(m.text)
                if m.type == "error" and "status of 4" not in m.text and "net::ERR_" not in m.text
                else None
            ),
        )
        return page

    def tearDown(self) -> None:
        self.context.close()
        self.stop()
        if not db.is_closed():
            db.close()
        self._folder.cleanup()
        self.assertEqual(self.errors, [])

    def open_runs(self) -> None:
        """Go from a record to its runs, where the next one is recorded."""
        self.page.get_by_role("navigation", name="Parts of this record").get_by_role(
            "link", name="Runs"
        ).click()
        self.page.locator("#write").wait_for()
        self.page.wait_for_load_state("networkidle")

    def open(self, path: str) -> None:
        """Open a path and wait until its scripts have run."""
        self.page.goto(self.address + path)

    def answered(self, act) -> None:
        """Perform an action and wait for its requests."""
        with self.page.expect_response(
            lambda r: r.request.resource_type == "fetch" and r.status == 200
        ):
            act()
        self.page.locator(".plan[aria-busy=false]").wait_for()

    def until(self, true: str) -> None:
        """Wait until an expression is true in the page.

        It runs from outside, because the policy of the page forbids evaluation.
        """
        for _ in range(MAX_WAIT_MS // 50):
            if self.page.evaluate(true):
                return
            self.page.wait_for_timeout(50)
        self.fail(f"it never came that {true}")

    def check_access(self) -> None:
        """Check with axe: no violation.

        The dark theme only changes contrast.
        """
        if not self.page.evaluate("!!window.axe"):
            self.page.evaluate(AXE + ";0")
        for theme, rules in (("light", "{}"), ("dark", "{runOnly: ['color-contrast']}")):
            self.page.evaluate(
                "t => document.documentElement.setAttribute('data-bs-theme', t)", theme
            )
            # The colours during a transition are not the final ones.
            self.page.evaluate(
                "document.getAnimations().forEach((a) => { if (a.effect.getComputedTiming().endTime"
                " < Infinity) { a.finish(); } })"
            )
            check = "reporter => axe.run(document, {preload: false, reporter, ..." + rules + "})"
            # The report of what passes takes longer than the check.
            found = self.page.evaluate(check, "no-passes")
            if found["violations"]:
                found = self.page.evaluate(check, "v1")
            told = [
                f"{theme} {v['id']}: {v['nodes'][0]['html'][:140]}"
                f" {v['nodes'][0].get('failureSummary', '')[:200]}"
                for v in found["violations"]
            ]
            self.assertEqual(told, [])
