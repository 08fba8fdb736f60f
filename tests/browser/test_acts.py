"""How many acts a task takes. An act is a tap, a key command or one field typed."""

from __future__ import annotations

from tests.browser.case import BrowserCase
from wisearc.services.jobs import jobs
from wisearc.store.models import RunRow

SEAMS = (
    "box+lid: 1.2 316L outside corner 380",
    "box+foot: 1.2 316L tee 90",
    "1.5 304 tube 42 to flange 4, all round",
    "0.9 321 lap 120",
    "1.5 304L sheet butt 200, vertical up",
    "like s4 but 250",
)
MAX_TAPS = 30


class Acts(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.acts = 0

    def tap(self, name: str, role: str = "button", **more: object) -> None:
        self.page.locator("main").get_by_role(role, name=name, **more).first.click()  # type: ignore[arg-type]
        self.acts += 1

    def pick(self, selector: str, text: str) -> None:
        self.page.locator(selector, has_text=text).first.click()
        self.acts += 1

    def type(self, selector: str, text: str) -> None:
        self.page.fill(selector, text)
        self.acts += 1

    def press(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.acts += 1

    def test_first_weld_from_an_empty_library_in_20_acts(self) -> None:
        """A beginner types the joint, saves it, welds it by taps and records the run."""
        self.open("/")
        self.type("#joint", "1.5 304L sheet butt 30, no pulse")
        self.tap("Show the plan")
        self.tap("Save draft")
        self.page.wait_for_url("**/procedures/P-0001/A")
        self.tap("Weld", "link", exact=True)
        self.page.locator("[data-run][data-ready=yes]").wait_for()
        for _ in range(MAX_TAPS):
            step = self.page.locator("[data-run]").get_attribute("data-step")
            if step == "done":
                break
            # Two presses within a moment count as one.
            self.page.wait_for_timeout(450)
            self.press("Space")
            self.page.wait_for_function(
                "before => document.querySelector('[data-run]').dataset.step !== before", arg=step
            )
        self.tap("Record run", "link")
        self.page.wait_for_url("**/write")
        self.pick(".tint-pick", "straw")
        self.page.locator(".write-tints").nth(1).locator(".tint-pick", has_text="silver").click()
        self.acts += 1
        self.type("#who", "A.B.")
        # Taps without a weld are far too fast for the plan, so the run is not good.
        self.tap("Not good", exact=True)
        self.page.wait_for_url("**/inspect/P-0001/A/*")
        self.assertEqual(RunRow.select().count(), 1)
        self.assertLessEqual(self.acts, 20)

    def test_six_unlike_seams_in_25_acts(self) -> None:
        self.open("/jobs/")
        self.type("#new-title", "Mast")
        self.tap("Create job")
        self.page.wait_for_url("**/jobs/1**")
        for number, line in enumerate(SEAMS):
            if number:
                self.tap("Seams", "link")
            self.type("#seam-lines", line)
            self.tap("Add seams")
            self.page.wait_for_url("**/jobs/1")
        seams = jobs.read_saved_job(jobs.find(1)).seams
        self.assertEqual(len(seams), 6)
        self.assertEqual(len({seam.joint.kind.key for seam in seams if seam.joint}), 5)
        self.assertLessEqual(self.acts, 25)

    def test_twelve_alike_in_10_acts(self) -> None:
        self.open("/jobs/")
        self.type("#new-title", "Rails")
        self.type("#new-lines", "12 off 1.5 304 tube 25 to 51 tube at 45, all round")
        self.tap("Create job")
        self.page.wait_for_url("**/jobs/1**")
        self.assertEqual(len(jobs.read_saved_job(jobs.find(1)).seams), 12)
        self.assertLessEqual(self.acts, 10)

    def test_bead_judged_in_6_acts(self) -> None:
        self.open("/")
        self.type("#joint", "2 mm 304 sheet butt 200")
        self.tap("Judge a bead")
        self.page.locator("#seen").wait_for()
        self.pick(".tints .fault-pick", "dark straw")
        self.pick(".fault-pick", "undercut")
        self.page.locator(".says-head h2", has_text="Not good").wait_for()
        self.assertTrue(self.page.locator(".change-words").is_visible())
        self.assertLessEqual(self.acts, 6)
        self.check_access()
