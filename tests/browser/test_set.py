"""Set up and Shop by hand.

Ticked by touch, mouse and keyboard at three widths, with the server killed in between; a device
paired.
"""

from tests.browser.case import BrowserCase
from tests.samples import SHOP
from wisearc.services.inventory import shop, shop_files
from wisearc.services.inventory.shop import load_shop
from wisearc.services.people import people
from wisearc.store.database import db
from wisearc.web.context import get_context
from wisearc.web.gate import limit_bodies
from wisearc.web.listener import listen
from wisearc.web.network import mark_network

PLAN = "/set-up/plan?joint=outside-corner&a.thickness=16+ga&length=380+mm"


class Ticked(BrowserCase):
    touch = True

    def box(self, key: str):
        return self.page.locator(f"#line-{key} .set-box")

    def pressed(self, key: str) -> None:
        self.until(
            f"document.querySelector('#line-{key} .set-box').getAttribute('aria-pressed') ==="
            " 'true'"
        )

    def test_at_three_widths_by_touch_large_enough_and_readable(self) -> None:
        page = self.page
        for width, height in ((390, 844), (820, 1180), (1280, 800)):
            page.set_viewport_size({"width": width, "height": height})
            self.open(PLAN)
            if width != 820:
                self.check_access()
            for what in (".set-box", ".set-not > summary", ".set-foot .btn"):
                sizes = page.evaluate(
                    f"[...document.querySelectorAll('{what}')].map(e =>"
                    " e.getBoundingClientRect()).map(r => Math.min(r.width, r.height))"
                )
                self.assertGreaterEqual(min(sizes), 64, (width, what))
            figures = page.evaluate(
                "[...document.querySelectorAll('.set-figure b')].map(e =>"
                " parseFloat(getComputedStyle(e).fontSize))"
            )
            self.assertGreaterEqual(min(figures), 28)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), width)
            labels = page.evaluate(
                "(() => { const box = document.querySelector('.set-torch"
                " svg').getBoundingClientRect(); return [...document.querySelectorAll('.set-torch"
                " text')].map(t => t.getBoundingClientRect()).filter(r => r.right > box.right + 1"
                " || r.left < box.left - 1).length; })()"
            )
            self.assertEqual(labels, 0)
            self.box("ring").tap()
            self.pressed("ring")
            page.locator("#line-cup summary").tap()
            page.get_by_text("collet body came out").wait_for()
            self.box("ring").tap()
            self.until(
                "document.querySelector('#line-ring .set-box').getAttribute('aria-pressed') ==="
                " 'false'"
            )
            self.until("localStorage.length === 0")

    def test_the_server_killed_half_way_and_a_reload(self) -> None:
        page, port = self.page, self.server.server_port
        self.open(PLAN)
        self.box("gas").tap()
        page.locator("[data-count]").get_by_text("1 of").wait_for()
        self.until("localStorage.length === 0")
        self.stop()
        self.box("set").tap()
        self.box("gas").tap()
        page.get_by_text("This device saves the ticks").wait_for()
        self.pressed("set")
        self.assertFalse(
            page.evaluate("document.querySelector('#line-gas').classList.contains('is-on')")
        )
        self.serve(port)
        self.until("localStorage.length === 0")
        page.reload()
        self.pressed("set")
        self.assertEqual(
            page.locator("[data-count]").inner_text(),
            f"1 of {page.locator('[data-line]').count()} done",
        )

    def test_opened_without_the_server_where_the_browser_holds_pages(self) -> None:
        page, port = self.page, self.server.server_port
        self.open(PLAN)
        page.get_by_text("Saved on this device").wait_for()
        page.evaluate("navigator.serviceWorker.ready.then(() => 1)")
        self.open(PLAN)
        self.box("rod").tap()
        self.until("localStorage.length === 0")
        self.stop()
        self.open(PLAN)
        self.box("tacks").tap()
        page.get_by_text("This device saves the ticks").wait_for()
        self.open(PLAN)
        self.pressed("tacks")
        self.serve(port)
        self.until("localStorage.length === 0")
        page.reload()
        self.pressed("tacks")
        self.pressed("rod")

    def test_saved_page_is_not_shown_to_another_person(self) -> None:
        page, port = self.page, self.server.server_port
        people.enter("R.T.", "", "welder")
        people.enter("M.O.", "", "welder")
        db.close()

        def works_here(initials: str) -> None:
            self.open("/shop/people/")
            page.get_by_role("button", name=initials, exact=True).tap()
            page.get_by_text(f"This device: {initials}").wait_for()
            self.until(
                "caches.open('user').then(c => c.match('/user')).then(r => r && r.text())"
                ".then(t => t === document.documentElement.dataset.userId)"
            )

        works_here("R.T.")
        self.open(PLAN)
        page.get_by_text("Saved on this device").wait_for()
        page.evaluate("navigator.serviceWorker.ready.then(() => 1)")
        self.open(PLAN)
        self.assertIn("R.T.", page.locator("header").first.inner_text())
        self.stop()
        self.open(PLAN)
        self.assertIn("R.T.", page.locator("header").first.inner_text())
        self.serve(port)
        works_here("M.O.")
        self.assertEqual(page.evaluate("caches.keys()"), ["user"])
        # A page that was saved late has its user in a header.
        held = """async ([url, user]) => (await caches.open('set-1')).put(url,
            new Response('R.T. was here', {headers: {'Wise-Arc-User': user}}))"""
        page.evaluate(held, [self.address + PLAN, "another user"])
        self.stop()
        # Use a new page: a failed page shows the error page of the browser.
        other = self.new_page()
        with self.assertRaisesRegex(Exception, "ERR_FAILED|ERR_CONNECTION_REFUSED"):
            other.goto(self.address + PLAN)
        other.close()
        self.serve(port)
        self.open(PLAN)
        self.assertIn("M.O.", page.locator("header").first.inner_text())


class ByKeys(BrowserCase):
    def test_recorded_setting_is_compared_at_the_next_set_up(self) -> None:
        page = self.page
        self.open(PLAN)
        page.locator("#line-metal .set-box").focus()
        page.keyboard.press("Space")
        self.until(
            "document.querySelector('#line-metal .set-box').getAttribute('aria-pressed') === 'true'"
        )
        page.keyboard.press("Tab")
        self.assertEqual(page.evaluate("document.activeElement.tagName"), "SUMMARY")
        page.keyboard.press("Enter")
        page.get_by_text("Film, oxide or a gap").wait_for()
        # Immediately, while the last tick is still being sent.
        page.locator("#line-gas .set-box").press("Space")
        page.get_by_role("button", name="Finish set-up").press("Enter")
        # Open lines are reported; a second press finishes the set-up.
        page.get_by_role("button", name="Finish with open lines").press("Enter")
        page.get_by_role("button", name="Set up again").wait_for()
        self.open(
            "/set-up/plan?joint=tee&a.thickness=1.5+mm&b.metal=mild-steel&b.form=sheet&b.thickness=1.5+mm"
        )
        self.assertIn(
            "lines differ from the last set-up", page.locator(".set-differs").inner_text()
        )
        self.assertIn("was", page.locator("#line-set h2").inner_text())
        page.keyboard.press("g")
        page.keyboard.press("s")
        page.get_by_role("heading", name="No equipment yet").wait_for()

    def test_entered_from_the_starter_list_in_under_sixty_taps(self) -> None:
        """The shop of the demo, as far as the list has it: ticks, one button, counts by + and −."""
        page, taps = self.page, 0
        self.open("/shop/starter")
        self.check_access()
        for words in (
            "machine 5 to 200 A",
            "torch no. 17",
            "torch no. 9",
            "collet 1.6, large",
            "gas lens 1.6, large",
            "gas lens 2.4, large",
            "collet body 1.6, large",
            "heat shield ring, large",
            "cup no. 6 for a gas lens, large",
            "cup no. 7 for a gas lens, large",
            "cup no. 12 for a gas lens, large",
            "cup no. 6 for a collet body, large",
            "long back cap, large",
            "collet 1.6, small",
            "gas lens 1.6, small",
            "cup no. 8 for a gas lens, small",
            "short back cap, small",
            "heat shield ring, small",
            "1.6 2 % lanthanated",
            "ER316L 1.6",
            "ER308L 1",
            "ER347 1",
            "ER309L 1.6",
            "copper bar 100",
            "argon, 50 L",
            "argon, 20 L",
        ):
            page.locator(".tick", has_text=words).first.click()
            taps += 1
        page.get_by_role("button", name="Add ticked items").click()
        taps += 1
        page.get_by_role("heading", name="Torch parts").wait_for()
        for words, more in (
            ("heat shield ring (large)", 1),
            ("gas lens 1.6 mm (large)", 1),
            ("collet 1.6 mm (large)", 2),
            ("cup no. 7, for a gas lens (large)", 1),
            ("ER347 1 mm", -7),
            ("ER309L 1.6 mm", -9),
        ):
            row = page.locator(".lines li", has_text=words)
            for _ in range(abs(more)):
                was = row.locator("output").inner_text()
                row.get_by_role("button").nth(0 if more < 0 else 1).click()
                self.until(
                    "[...document.querySelectorAll('.lines li')].find(e =>"
                    f" e.textContent.includes({words!r})).querySelector('output').textContent !=="
                    f" {was!r}"
                )
                taps += 1
        self.assertLess(taps, 60)
        shelf = {shop.list_lines("parts")[i].count for i in range(len(shop.list_lines("parts")))}
        self.assertEqual(shelf, {1, 2, 3})
        self.assertEqual(
            [r.count for r in load_shop().rods if r.rod in ("ER347", "ER309L")], [1, 3]
        )
        db.close()

    def test_two_people_can_count_at_once(self) -> None:
        shop_files.replace_lists(shop_files.read_shop(SHOP))
        db.close()
        other = self.new_page()
        for page in (self.page, other):
            page.goto(self.address + "/shop/")
        for page, name, count in (
            (self.page, "Add one", 41),
            (other, "Add one", 42),
            (self.page, "Remove one", 41),
        ):
            row = page.locator("#rods li")
            row.get_by_role("button", name=name).click()
            row.locator("output", has_text=str(count)).wait_for()
        self.page.goto(self.address + "/shop/")
        self.check_access()


class Unpaired(BrowserCase):
    """A phone on the network, and one that was never paired."""

    def serve(self, port: int = 0) -> None:
        super().serve(port)
        self.network = get_context(self.app).network
        self.network.ready(
            lambda host, at: listen(mark_network(self.app), at, limit_bodies(self.app, True), host),
            self.server.server_port,
            "127.0.0.2",
        )

    def stop(self) -> None:
        self.network.off()
        super().stop()

    def test_device_is_paired_used_and_removed(self) -> None:
        page = self.page
        self.open("/shop/devices")
        page.get_by_text("No other device can connect").wait_for()
        page.get_by_role("button", name="Turn network on").click()
        page.get_by_role("button", name="Show code").click()
        digits = page.locator(".door-shown").inner_text().replace(" ", "")
        self.check_access()
        there = f"http://127.0.0.2:{self.server.server_port}"
        contexts = [
            self.browser.new_context(viewport={"width": 390, "height": 844}) for _ in range(2)
        ]
        phone, stranger = (context.new_page() for context in contexts)
        # As at a real network address, which a browser trusts less than this machine.
        phone.add_init_script("Object.defineProperty(window, 'isSecureContext', {value: false})")
        for other in (phone, stranger):
            for path in ("/", "/plan", "/shop/", PLAN):
                other.goto(there + path)
                self.assertEqual(other.get_by_role("heading").inner_text(), "Pair this device")
        self.assertIn("code=" + digits, phone.goto(f"{there}/let-in?code={digits}").url)
        phone.fill("#name", "bench phone")
        phone.get_by_role("button", name="Pair").click()
        phone.locator("#keep").wait_for()
        stranger.fill("#digits", digits)
        stranger.fill("#name", "stranger")
        stranger.get_by_role("button", name="Pair").click()
        stranger.get_by_text("are already used").wait_for()
        phone.goto(there + PLAN)
        with phone.expect_response(lambda answer: answer.request.method == "POST"):
            phone.locator("#line-gas .set-box").click()
        phone.locator("[data-count]").get_by_text("1 of").wait_for()
        phone.get_by_text("Without the network this page works while it stays open").wait_for()
        self.open(PLAN)
        self.until("document.querySelector('#line-gas').classList.contains('is-on')")
        self.open("/shop/devices")
        page.get_by_role("button", name="Remove").click()
        page.get_by_text("No paired devices yet").wait_for()
        phone.goto(there + "/procedures/")
        phone.get_by_role("heading", name="Pair this device").wait_for()
        page.get_by_role("button", name="Turn network off").click()
        page.get_by_text("No other device can connect").wait_for()
        for context in contexts:
            context.close()


class WithoutScript(BrowserCase):
    def test_ticked_and_counted_by_pages(self) -> None:
        shop_files.replace_lists(shop_files.read_shop(SHOP))
        db.close()
        context = self.browser.new_context(java_script_enabled=False)
        page = context.new_page()
        page.goto(self.address + PLAN)
        page.locator("#line-gas .set-box").click()
        page.locator("#line-gas.is-on").wait_for()
        page.locator("#line-cup summary").click()
        page.get_by_text("collet body came out").wait_for()
        page.goto(self.address + "/shop/")
        page.locator("#rods li").get_by_role("button", name="Add one").click()
        page.locator("#rods output", has_text="41").wait_for()
        page.fill("#what", "cup 10 large lens")
        page.get_by_role("button", name="Add", exact=True).click()
        page.locator("#parts li", has_text="cup no. 10, for a gas lens (large)").wait_for()
        context.close()
