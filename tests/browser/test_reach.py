"""Visibility and reach: by keys, by thumb, on small screens, without script."""

import itertools
import unittest

from playwright.sync_api import expect

from tests.browser.case import BrowserCase
from wisearc.presenters import procedure_page
from wisearc.services.maintenance.demo import fill_if_empty
from wisearc.services.procedures import book, procedures
from wisearc.store import queries
from wisearc.web.context import get_context

CORNER = "/?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm"
STOPPED = (
    "/?joint=tee&a.metal=304L&a.form=sheet&a.thickness=1.5+mm&b.metal=mild-steel&b.form=sheet"
    "&b.thickness=1.5+mm&length=120+mm&finish=sound&filler=ER70S-2&back=open&service=wet"
)
WORSE = (
    "/?joint=tube-cope&a.metal=303&a.form=tube&a.diameter=25+mm&a.thickness=2+mm&b.metal=17-4PH"
    "&b.form=tube&b.diameter=42+mm&b.thickness=3.2+mm&length=all-round&rod_school=equals-sheet"
    "&tip_school=needle&filler=ER70S-2&gap=1.5+mm&angle_deg=50"
)
WORST = (
    "/?joint=butt&a.metal=321&a.form=sheet&a.thickness=0.5+mm&b.metal=316L&b.form=sheet"
    "&b.thickness=3+mm&length=60+mm&setting_school=ride&service=hot&filler=ER70S-2&gap=0.3+mm"
    "&travel_mm_s=2&part_mass_g=10&pins.postflow_s=1"
)
# Every control on the way of Tab: name, visible focus, position.
FOCUSED = """() => {
  const el = document.activeElement;
  if (!el || el === document.body) { return null; }
  const shown = el.matches('.chip input') ? el.nextElementSibling : el;
  const style = getComputedStyle(shown);
  const box = shown.getBoundingClientRect();
  const seen = style.outlineStyle !== 'none' && parseFloat(style.outlineWidth) >= 2;
  const column = el.closest('.answers') ? 1 : el.closest('.like') ? 2 : el.closest('.foot') ?
      3 : el.closest('.top') ? -1 : 0;
  return {what: (el.id || el.className || el.tagName) + '|' + el.tagName, seen, column,
      top: box.top + window.scrollY, wide: box.width};
}"""


class AtOnce(BrowserCase):
    def test_all_answers_of_every_demo_joint_without_scrolling(self) -> None:
        fill_if_empty(get_context(self.app).store)
        page = self.page
        for habit in ("mm", "in"):
            self.context.add_cookies([{"name": "habit", "value": habit, "url": self.address}])
            for number in range(1, 9):
                self.open("/?" + procedure_page.record(book.find(f"P-000{number}"), habit).link)
                below = page.locator("#row-technique").bounding_box()
                with self.subTest(number=number, habit=habit):
                    self.assertEqual(page.locator(".answer-box").count(), 12)
                    self.assertLessEqual(
                        below["y"] + below["height"], page.locator(".foot").bounding_box()["y"]
                    )
        # A closed answer can show one line of its reason; everything else is complete.
        cut = (
            "() => Array.from(document.querySelectorAll('.answers *:not(.answer-why)')).filter(e =>"
            " getComputedStyle(e).textOverflow === 'ellipsis' || e.scrollWidth > e.clientWidth + 1"
            " && getComputedStyle(e).overflowX !== 'visible').length"
        )
        self.assertEqual(page.evaluate(cut), 0)

    def test_every_caution_without_scrolling(self) -> None:
        """Many cautions fold to one line each; a click opens the rest."""
        page = self.page
        shown = page.locator(".cautions .caution > span, .cautions summary > span")
        for path, count, folded in ((STOPPED, 3, 1), (WORSE, 6, 5), (WORST, 7, 7)):
            self.open(path)
            foot = page.locator(".foot").bounding_box()["y"]
            with self.subTest(count=count):
                self.assertEqual(int(page.inner_text(".foot .sum b")), count)
                self.assertEqual(shown.count(), count)
                self.assertEqual(page.locator(".cautions-more").count(), folded)
                for row in shown.all():
                    box = row.bounding_box()
                    self.assertLessEqual(box["y"] + box["height"], foot, row.inner_text())
        self.open(STOPPED)
        row = page.locator(".cautions-more").first
        self.assertFalse(row.get_by_role("link", name="Use copper bars").is_visible())
        row.locator("summary").press("Enter")
        row.get_by_role("link", name="Use copper bars").click()
        expect(page.locator(".cautions")).not_to_contain_text("back is open")

    def test_card_is_below_the_sentence(self) -> None:
        page = self.page
        for width, height in ((390, 844), (768, 1024), (1024, 768), (1280, 800)):
            page.set_viewport_size({"width": width, "height": height})
            self.open(CORNER)
            sentence, card, drawing = (
                page.locator(name).bounding_box() for name in ("#sentence", ".dial", "#views")
            )
            with self.subTest(width=width):
                self.assertLess(card["y"] - sentence["y"] - sentence["height"], 24)
                self.assertLessEqual(card["y"] + card["height"], height)
                self.assertGreaterEqual(drawing["y"], card["y"] + card["height"])
                size = page.evaluate(
                    "parseFloat(getComputedStyle(document.querySelector('.dial-set dd"
                    " b')).fontSize)"
                )
                self.assertGreaterEqual(size, 26)
        self.assertRegex(
            page.inner_text(".dial").replace("\n", " "),
            r"Setting 110 A .*Pulse frequency 1.7 per second Peak time 30 % Background 10 %"
            r" Argon 9.6 L/min Pre-flow 0.5 s Post-flow 6 s",
        )

    def test_nothing_scrolls_sideways(self) -> None:
        self.open(CORNER)
        self.page.get_by_role("button", name="Save draft").click()
        self.page.wait_for_url("**/procedures/P-0001/A")
        for path in (
            CORNER + "&pins.cup=6&open=torch,gas,filler",
            "/procedures/",
            "/procedures/P-0001/A",
            "/procedures/P-0001/A/runs",
            "/procedures/P-0001/A/changes",
            "/procedures/P-0001/A/documents",
            "/procedures/inbox",
            "/shop/signatures",
            "/procedures/begin",
            "/shop/",
            "/reference/",
            "/templates/",
            "/templates/frame",
            "/templates/shims",
            "/set-up/fit-up?what=kept:P-0001/A&gap=0.2",
            "/set-up/tacks?what=kept:P-0001/A",
            "/set-up/purge?what=kept:P-0001/A",
            "/compare?left=joint%3Dtee&right=joint%3Dlap",
        ):
            self.open(path)
            for width in (768, 390, 320):
                self.page.set_viewport_size({"width": width, "height": 700})
                with self.subTest(path=path, width=width):
                    self.assertLessEqual(
                        self.page.evaluate("document.documentElement.scrollWidth"), width
                    )

    def test_header_has_room_for_a_person(self) -> None:
        """One row from 1100 pixels, and never wider than the page."""
        self.context.add_cookies([{"name": "who", "value": "WWW.W", "url": self.address}])
        self.open("/plan")
        for width in (1561, 1341, 1280, 1181, 1100, 1024):
            self.page.set_viewport_size({"width": width, "height": 800})
            with self.subTest(width=width):
                self.assertLessEqual(
                    self.page.evaluate("document.documentElement.scrollWidth"), width
                )
                if width >= 1100:
                    self.assertEqual(self.page.locator(".top").bounding_box()["height"], 60)


class Focus(BrowserCase):
    def through(self, path: str, theme: str) -> list[dict]:
        """Return every Tab stop of a page."""
        page = self.page
        self.open(path)
        page.evaluate("t => document.documentElement.setAttribute('data-bs-theme', t)", theme)
        stops = []
        for _ in range(400):
            page.keyboard.press("Tab")
            stop = page.evaluate(FOCUSED)
            if stop is None or (stops and stop == stops[0]):
                break
            stops.append(stop)
        return stops

    def test_tab_through_every_page(self) -> None:
        self.open(CORNER)
        self.page.get_by_role("button", name="Save draft").click()
        self.page.wait_for_url("**/procedures/P-0001/A")
        for i, path in enumerate(
            (
                CORNER + "&pins.cup=6&open=torch",
                "/procedures/P-0001/A",
                "/procedures/P-0001/A/runs",
                "/procedures/",
                "/shop/",
                "/reference/",
                "/procedures/begin",
                "/compare?left=joint%3Dtee&right=joint%3Dlap",
            )
        ):
            stops = self.through(path, ("light", "dark")[i % 2])
            with self.subTest(path=path):
                self.assertGreater(len(stops), 8)
                self.assertEqual(
                    [
                        s["what"]
                        for s in stops
                        if not s["seen"] and not s["what"].startswith("skip")
                    ],
                    [],
                )
                rows = [(s["column"], s["top"]) for s in stops if s["column"] in (0, 1)]
                # Down the page, line by line, one column after the other.
                self.assertEqual(
                    [
                        s
                        for s, t in itertools.pairwise(rows)
                        if t[0] < s[0] or (t[0] == s[0] and t[1] < s[1] - 60)
                    ],
                    [],
                )

    def test_seen_in_forced_colours(self) -> None:
        self.page.emulate_media(forced_colors="active")
        self.assertEqual(
            [
                s["what"]
                for s in self.through(CORNER, "light")
                if not s["seen"] and not s["what"].startswith("skip")
            ],
            [],
        )

    def test_choice_opens_and_returns_focus(self) -> None:
        page = self.page
        self.open(CORNER)
        for key in ("Escape", "Enter"):
            page.focus("#word-gap")
            page.keyboard.press("Enter")
            self.until("document.activeElement.id === 'text-gap'")
            page.keyboard.press(key)
            self.until("document.activeElement.id === 'word-gap'")
            self.assertFalse(page.is_visible("#editor-gap"))

    def test_axe_in_every_state(self) -> None:
        page = self.page
        self.open(
            "/?joint=tee&b.metal=mild-steel&filler=ER70S-2&pins.stickout_mm=30&open=filler,torch,gas"
        )
        self.check_access()
        page.click("#word-a")
        self.check_access()
        page.fill("#text-a-thickness", "x")
        page.keyboard.press("Enter")
        page.locator("#problems").wait_for()
        self.check_access()
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        page.click("[popovertarget=help]")
        self.check_access()
        self.open("/procedures/begin")
        self.check_access()
        self.open("/procedures/")
        self.check_access()


class Thumb(BrowserCase):
    touch = True
    viewport = {"width": 390, "height": 844}  # noqa: RUF012

    def test_everything_is_within_reach(self) -> None:
        page = self.page
        self.open(CORNER)
        for name in (
            "Shop",
            "Reference",
            "mm / in units",
            "◐ light or dark",
            "New joint",
            "Wise Arc, first page",
        ):
            self.assertTrue(page.get_by_role("link", name=name, exact=True).is_visible(), name)
        self.assertTrue(page.get_by_role("button", name="? help").is_visible())
        self.assertTrue(page.get_by_role("link", name="Heat", exact=True).is_visible())
        page.get_by_role("button", name="Save draft").tap()
        page.wait_for_url("**/procedures/P-0001/A")
        card, tabs = (page.locator(name).bounding_box()["y"] for name in (".dial", ".record-tabs"))
        self.assertLess(card, tabs)
        self.open("/procedures/")
        self.assertIn("draft", page.inner_text(".cards"))
        self.assertIn(
            "Runs",
            page.evaluate(
                "getComputedStyle(document.querySelector('.cards [data-label=Runs]'),"
                " '::before').content"
            ),
        )

    def test_targets_are_large_and_do_not_touch(self) -> None:
        page = self.page
        small = """() => {
            const what = `button, a.btn, a.tool, .place, .chip > span:not(.visually-hidden),
                input[type=text], select, summary, .tab, .row-link, .choose a`;
            const seen = Array.from(document.querySelectorAll(what)).filter(e =>
                e.checkVisibility() && e.getBoundingClientRect().width > 0 && !e.matches('.word'));
            const boxes = seen.map(e => [e, e.getBoundingClientRect()]);
            const less = boxes.filter(([e, r]) => r.height < 43.5 || r.width < 43.5);
            return less.map(([e]) => e.outerHTML.slice(0, 90)); }"""
        for path, act in (
            (CORNER + "&open=torch", None),
            (CORNER, "#word-a"),
            ("/procedures/", None),
            ("/procedures/P-0001/A", None),
            ("/procedures/P-0001/A/runs", None),
            ("/procedures/inbox", None),
            ("/shop/signatures", None),
            ("/set-up/", None),
            ("/weld/", None),
            ("/weld/at?what=kept:P-0001/A", None),
            ("/inspect/", None),
            ("/learn/drills/restart", None),
            ("/shop/", None),
            ("/reference/", None),
        ):
            if path == "/procedures/P-0001/A":
                self.open(CORNER)
                page.get_by_role("button", name="Save draft").tap()
                page.wait_for_url("**/procedures/P-0001/A")
            self.open(path)
            if act:
                page.tap(act)
            with self.subTest(path=path, act=act):
                self.assertEqual(page.evaluate(small), [])
        touching = """() => {
            const chips = document.querySelectorAll('.chip > span:not(.visually-hidden)');
            const seen = Array.from(chips).filter(e => e.checkVisibility());
            const r = seen.map(e => e.getBoundingClientRect());
            return r.flatMap((a, i) => r.slice(i + 1).filter(b => a.left < b.right + 4 &&
                b.left < a.right + 4 && a.top < b.bottom + 4 && b.top < a.bottom + 4)).length; }"""
        self.open(CORNER)
        page.tap("#word-a")
        self.assertEqual(page.evaluate(touching), 0)
        words = (
            "() => { const r = Array.from(document.querySelectorAll('.word')).map(e =>"
            " e.getBoundingClientRect()); return r.flatMap((a, i) => r.slice(i + 1).filter(b =>"
            " a.left < b.right && b.left < a.right && a.top < b.bottom - 1 && b.top < a.bottom -"
            " 1)).length; }"
        )
        self.assertEqual(page.evaluate(words), 0)


class WithoutScript(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.context.close()
        self.context = self.browser.new_context(
            viewport=self.viewport, locale="en-GB", java_script_enabled=False
        )
        self.page = self.new_page()

    def test_plan_keep_record_print(self) -> None:
        page = self.page
        page.goto(self.address + "/plan")
        page.click("#word-a")
        page.fill("#text-a-thickness", "16 ga")
        page.check("#pick-a-metal-316L")
        page.locator("#done-a").click()
        page.get_by_role("button", name="16 ga (1.59 mm) 316L sheet").wait_for()
        page.click("#row-torch")
        page.get_by_role("link", name="Use no. 6").click()
        self.assertIn("no. 6", page.inner_text("#row-torch"))
        self.assertTrue(page.is_visible("#more-torch"))
        page.get_by_role("link", name="Use recommended").first.click()
        self.assertIn("no. 8", page.inner_text("#row-torch"))
        page.get_by_role("link", name="Heat", exact=True).click()
        self.assertIn(
            "Temperature across", page.locator(".drawing svg").get_attribute("aria-label")
        )
        page.get_by_role("link", name="mm / in units").click()
        self.assertIn("CFH", page.inner_text(".dial"))
        page.get_by_role("link", name="mm / in units").click()
        page.get_by_role("button", name="Save draft").click()
        page.wait_for_url("**/procedures/P-0001/A")
        self.open_runs()
        page.fill("#who", "R.T.")
        made = procedures.get_plan(queries.get_revision("P-0001"))
        page.fill("#measured-length_mm", "300")
        page.fill("#measured-arc_time_s", str(round(made.travel.arc_time_s)))
        for face in ("front", "back"):
            page.locator(f"label:has(input[name={face}][value=straw])").click()
        page.get_by_role("button", name="Good: this verifies").click()
        page.wait_for_url("**taken=proved**")
        page.get_by_role("link", name="Print").click()
        self.assertIn("VERIFIED", page.inner_text("main").upper())


if __name__ == "__main__":
    unittest.main()
