"""The course and the virtual seam in the browser: mouse, finger, keys, lost server, hidden page."""

import json
import re
from typing import Any

from playwright.sync_api import Route, expect

from tests.browser.case import BrowserCase
from tests.practised import lesson_piece
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.practice.tracks import judge_track_text
from wisearc.store.models import PracticeTry

TAPER = "/learn/seam?lesson=taper"
READY, WELDING, JUDGED = "arc", "travel", "Judged"


class SeamCase(BrowserCase):
    def ready(self, path: str = TAPER) -> None:
        """Open a virtual seam, and wait for its sheet."""
        self.open(path)
        expect(self.page.locator("[data-hint]")).to_contain_text("wait for the pool")

    def place(self, at_mm: float) -> tuple[float, float]:
        """Return where a place of the seam is on the page, px. The coupon is 25 mm long."""
        box = self.page.locator("[data-sheet]").bounding_box()
        assert box is not None
        scale = min((box["width"] - 8) / 33, 16)
        left = (box["width"] - 25 * scale) / 2
        return box["x"] + left + at_mm * scale, box["y"] + box["height"] / 2

    # The page itself moves the torch: by its clock, so that a slow moment gives no jump.
    TRAVEL = """([x, y, px_s, to]) => new Promise((done) => {
        const sheet = document.querySelector('[data-sheet]'), since = performance.now();
        const timer = setInterval(() => {
            const at = Math.min(to, x + px_s * (performance.now() - since) / 1000);
            sheet.dispatchEvent(new PointerEvent('pointermove', { pointerId: 1,
                pointerType: 'mouse', clientX: at, clientY: y, bubbles: true }));
            if (at >= to) { clearInterval(timer); done(); }
        }, 10);
    })"""

    def weld(self, until_mm: float = 23.0, speed_mm_s: float = 3.4) -> None:
        """Weld with the mouse: wait for the pool, travel, release."""
        mouse = self.page.mouse
        (x, y), (to, _) = self.place(1.8), self.place(until_mm)
        mouse.move(x, y)
        mouse.down()
        self.page.wait_for_timeout(1300)
        px_s = speed_mm_s * (to - x) / (until_mm - 1.8)
        self.page.evaluate(self.TRAVEL, [x, y, px_s, to])
        mouse.move(to, y)
        mouse.up()

    def judged(self) -> int:
        """Return the score of the try."""
        expect(self.page.locator("[data-hint]")).to_contain_text(JUDGED)
        return int(self.page.locator("[data-score]").inner_text())

    def get_track(self) -> Any:
        """Return the track of the only try."""
        number = PracticeTry.get().id
        return self.page.request.get(f"{self.address}/learn/seam/track/{number}").json()


class Mouse(SeamCase):
    def test_welds_holds_and_is_judged(self) -> None:
        self.ready()
        self.check_access()
        self.weld()
        expect(self.page.locator("[data-hint]")).to_contain_text("Keep still")
        score = self.judged()
        self.assertGreater(score, 50)
        row = PracticeTry.select().first()
        self.assertEqual((row.lesson, round(row.score)), ("taper", score))
        expect(self.page.locator("[data-try]")).to_have_text("Try 1")
        self.check_access()
        # The bead is the one of its track: judged again, the saved file has the same score.
        file = self.page.request.get(f"{self.address}/learn/seam/track/{row.id}").text()
        self.assertEqual(json.loads(file)["lesson"], "taper")
        again = judge_track_text(file, ASSUMED)
        self.assertAlmostEqual(again["score"], row.score, delta=0.06)
        self.page.get_by_role("button", name="Replay my try").click()
        expect(self.page.locator("[data-hint]")).to_contain_text("Your try again")
        self.page.get_by_role("button", name="Start again").click()
        expect(self.page.locator("[data-hint]")).to_contain_text("wait for the pool")

    def test_the_torch_that_leaves_early_is_named(self) -> None:
        self.ready()
        self.weld()
        self.page.wait_for_timeout(1800)
        self.page.mouse.move(5, 5)
        self.judged()
        expect(self.page.locator("[data-slip]")).to_contain_text("The torch left the end")

    def test_a_hidden_page_breaks_the_arc(self) -> None:
        self.ready()
        self.page.mouse.move(*self.place(1.8))
        self.page.mouse.down()
        self.page.wait_for_timeout(1500)
        self.page.evaluate(
            """() => { Object.defineProperty(document, 'hidden', { value: true });
            document.dispatchEvent(new Event('visibilitychange')); }"""
        )
        expect(self.page.locator("[data-judged]")).to_be_visible()
        self.assertEqual(PracticeTry.select().count(), 1)


class LostServer(SeamCase):
    def test_a_try_is_saved_and_judged_later(self) -> None:
        self.ready()
        lost = [False]

        def answer(route: Route) -> None:
            route.abort() if lost[0] else route.continue_()

        self.page.route("**/learn/seam/*", answer)
        self.page.mouse.move(*self.place(1.8))
        self.page.mouse.down()
        self.page.wait_for_timeout(1200)
        lost[0] = True
        self.page.mouse.move(*self.place(4))
        expect(self.page.locator("[data-hint]")).to_contain_text("your try is saved")
        self.page.mouse.up()
        self.page.wait_for_timeout(2000)
        self.page.get_by_role("button", name="Judge it now").click()
        expect(self.page.locator("[data-hint]")).to_contain_text("saved on this device")
        self.assertEqual(PracticeTry.select().count(), 0)
        # A reload loses nothing either.
        self.page.reload()
        lost[0] = False
        expect(self.page.locator("[data-judged]")).to_be_visible()
        self.assertEqual(PracticeTry.select().count(), 1)

    def test_a_new_process_gets_all_earlier_samples(self) -> None:
        from wisearc.web.context import get_context

        self.ready()
        self.page.mouse.move(*self.place(1.8))
        self.page.mouse.down()
        self.page.wait_for_timeout(1500)
        process = get_context(self.app).practice_seams._process
        assert process is not None
        with self.page.expect_request(re.compile("/learn/seam/open")) as reopened:
            process.kill()
            process.wait()
        self.page.evaluate("() => { document.querySelector('[data-readout]').textContent = ''; }")
        # The pool is there again while the arc burns on.
        expect(self.page.locator("[data-readout]")).to_contain_text(re.compile(r"Pool [1-9]"))
        earlier = [row[0] for row in reopened.value.post_data_json["samples"]]
        self.assertLess(earlier[0], 0.1)
        self.assertGreater(earlier[-1], 1.2)
        self.assertIsNone(PracticeTry.get_or_none())
        self.page.mouse.up()
        self.judged()
        track = self.get_track()
        currents = [row[3] for row in track["samples"] if row[0] > 0.5]
        burning = [current > 3 for current in currents]
        # The track was never broken: one arc, then none.
        self.assertEqual(burning, sorted(burning, reverse=True))


class Keys(SeamCase):
    def test_arrow_keys_give_a_fair_score(self) -> None:
        self.ready()
        page = self.page
        page.locator("[data-sheet]").focus()
        page.keyboard.down(" ")
        page.wait_for_timeout(1400)
        page.keyboard.down("ArrowRight")
        page.wait_for_timeout(6300)
        page.keyboard.up("ArrowRight")
        page.keyboard.up(" ")
        self.assertGreater(self.judged(), 60)

    def test_a_held_enter_key_is_one_dab(self) -> None:
        self.ready("/learn/seam?lesson=rod")
        page = self.page
        page.locator("[data-sheet]").focus()
        page.keyboard.down(" ")
        page.wait_for_timeout(1200)
        for _ in range(6):
            page.keyboard.down("Enter")
            page.wait_for_timeout(120)
        page.keyboard.up("Enter")
        page.keyboard.up(" ")
        self.judged()
        self.assertEqual(len(self.get_track()["dabs"]), 1)


class Gamepad(SeamCase):
    """A simulated pedal: it rests at an end of its axis, as many do."""

    PADS = """window.pad = { index: 0, mapping: "", axes: [0, -1],
            buttons: [{ pressed: false, value: 0 }] };
        navigator.getGamepads = () => [window.pad];
        localStorage.setItem("practice-by", "gamepad");"""

    def test_a_pedal_at_rest_has_no_arc_and_a_held_button_is_one_dab(self) -> None:
        page = self.page
        page.add_init_script(self.PADS)
        self.ready("/learn/seam?lesson=rod")
        page.mouse.move(*self.place(3.0))
        page.wait_for_timeout(1000)
        self.assertEqual(page.locator("[data-readout]").inner_text(), "")
        page.evaluate("() => { window.pad.axes[1] = 0.55; }")
        expect(page.locator("[data-readout]")).to_contain_text(" A")
        page.evaluate("() => { window.pad.buttons[0].pressed = true; }")
        page.wait_for_timeout(900)
        page.evaluate("() => { window.pad.buttons[0].pressed = false; window.pad.axes[1] = -1; }")
        self.judged()
        track = self.get_track()
        self.assertEqual(len(track["dabs"]), 1)
        peak = max(row[3] for row in track["samples"])
        self.assertAlmostEqual(peak, 1.3 * 0.775 * lesson_piece("rod").peak_a, delta=1.0)


class Finger(SeamCase):
    touch = True
    viewport = {"width": 390, "height": 844}  # noqa: RUF012

    def test_a_finger_drags_the_torch_and_a_slider_is_the_pedal(self) -> None:
        self.ready("/learn/seam?lesson=rod")
        page = self.page
        self.assertEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        self.check_access()
        page.evaluate(
            """() => { const pedal = document.querySelector('[data-pedal]');
            pedal.value = '100'; pedal.dispatchEvent(new Event('input', { bubbles: true })); }"""
        )
        page.wait_for_timeout(1500)
        sent = """([kind, id, x, y]) => { const sheet = document.querySelector('[data-sheet]');
            sheet.setPointerCapture = () => {};
            sheet.dispatchEvent(new PointerEvent(kind, { pointerId: id, pointerType: 'touch',
            clientX: x, clientY: y, bubbles: true, button: 0 })); }"""
        box = page.locator("[data-sheet]").bounding_box()
        assert box is not None
        x, y = box["x"] + 60, box["y"] + 120
        page.evaluate(sent, ["pointerdown", 1, x, y])
        for n in range(30):
            page.evaluate(sent, ["pointermove", 1, x + n, y])
            page.wait_for_timeout(40)
            if n % 9 == 8:
                # A second finger dabs, and does not move the torch.
                page.evaluate(sent, ["pointerdown", 2, x + 120, y + 60])
        page.evaluate(sent, ["pointerup", 1, x + 30, y])
        page.evaluate("() => { document.querySelector('[data-pedal]').value = '0'; }")
        self.judged()
        track = self.get_track()
        self.assertEqual(len(track["dabs"]), 3)
        along = [row[1] for row in track["samples"]]
        self.assertGreater(max(along) - min(along), 3)
        self.assertLess(max(along), 20)


class Phone(SeamCase):
    viewport = {"width": 390, "height": 844}  # noqa: RUF012

    def test_no_hint_moves_the_sheet_under_the_torch(self) -> None:
        """A still mouse stays on the seam, and every hint has room above it."""
        self.ready("/learn/seam?lesson=rod")
        page, hint = self.page, self.page.locator("[data-hint]")
        tops = [self.get_top()]
        page.mouse.move(*self.place(1.8))
        page.mouse.down()
        expect(hint).to_contain_text("Dab with")
        tops.append(self.get_top())
        page.wait_for_timeout(1500)
        page.mouse.up()
        expect(hint).to_contain_text("Keep still")
        tops.append(self.get_top())
        self.judged()
        tops.append(self.get_top())
        self.assertEqual(len(set(tops)), 1, tops)

    def test_every_hint_has_room(self) -> None:
        for path, words in (("rod", "wait for the pool"), ("tacks", "on mark 1")):
            self.open(f"/learn/seam?lesson={path}")
            hint = self.page.locator("[data-hint]")
            expect(hint).to_contain_text(words)
            heights = hint.evaluate("(hint) => [hint.scrollHeight, hint.clientHeight]")
            self.assertLessEqual(*heights, path)

    def get_top(self) -> float:
        """Return the top of the sheet on the page, px."""
        box = self.page.locator("[data-sheet]").bounding_box()
        assert box is not None
        return box["y"]


class Pages(BrowserCase):
    def test_course_lesson_exercise_and_beat(self) -> None:
        for path in (
            "/learn/",
            "/learn/lessons/torch",
            "/learn/lessons/tube",
            "/learn/lessons/reading/exercise?n=3",
            "/learn/own",
            "/learn/beat",
        ):
            self.open(path)
            self.check_access()

    def test_taps_are_judged(self) -> None:
        page = self.page
        self.open("/learn/beat?pps=2")
        page.get_by_role("button", name="Start the beat").click()
        page.wait_for_timeout(1000)
        for _ in range(8):
            page.locator("[data-pad]").dispatch_event("pointerdown")
            page.wait_for_timeout(480)
        page.get_by_role("button", name="Stop and judge").click()
        expect(page.locator("[data-words]")).to_contain_text("On average")
        self.assertEqual(PracticeTry.select().first().kind, "beat")
