"""The record on screen: sign by keyboard, find while typing, drop files into the inbox."""

import io

from PIL import Image
from playwright.sync_api import expect

from tests.browser.case import BrowserCase
from wisearc.services.maintenance.demo import fill_if_empty
from wisearc.services.people import people
from wisearc.store.database import db
from wisearc.web.context import get_context

PIN = "246824"
CORNER = "/?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm"
DROP = """([name, bytes]) => {
  const data = new DataTransfer();
  data.items.add(new File([new Uint8Array(bytes)], name, { type: "image/jpeg" }));
  document.querySelector("[data-drop-files]").dispatchEvent(
    new DragEvent("drop", { dataTransfer: data, bubbles: true, cancelable: true }));
}"""


def photograph(colour: int) -> bytes:
    """Return a photograph of one colour."""
    out = io.BytesIO()
    Image.new("RGB", (64, 48), (colour, 90, 90)).save(out, "JPEG")
    return out.getvalue()


class Sign(BrowserCase):
    def test_by_keyboard_and_only_once(self) -> None:
        db.connect(reuse_if_open=True)
        people.enter("K.S.", "Kim", "lead", PIN)
        db.close()
        page = self.page
        self.open(CORNER)
        page.get_by_role("button", name="Save draft").click()
        page.wait_for_url("**/procedures/P-0001/A")
        other = self.new_page()
        other.goto(page.url)
        summary = page.locator(".sign-form summary")
        summary.press("Enter")
        page.get_by_label("PIN", exact=True).fill("000000")
        page.keyboard.press("Enter")
        # Beside its field, with the form still open.
        expect(page.locator("#sign-error")).to_contain_text("Wrong PIN")
        expect(page.get_by_label("PIN", exact=True)).to_have_attribute("aria-invalid", "true")
        self.check_access()
        page.get_by_label("PIN", exact=True).fill(PIN)
        page.keyboard.press("Enter")
        expect(page.locator(".sign-lines li")).to_have_count(1)
        expect(page.locator(".sign-state")).to_contain_text("matches its signature")
        # A second device still shows the form, and signs as well.
        other.locator(".sign-form summary").press("Enter")
        other.get_by_label("PIN", exact=True).fill(PIN)
        other.keyboard.press("Enter")
        expect(other.locator(".sign-state")).to_contain_text("matches its signature")
        expect(other.locator(".sign-lines li")).to_have_count(1)
        parts = page.get_by_role("navigation", name="Parts of this record")
        for name in ("Runs", "Photographs", "Changes", "Documents", "Set-up"):
            parts.get_by_role("link", name=name).press("Enter")
            expect(parts.locator("[aria-current=page]")).to_contain_text(name)
        page.get_by_role("link", name="Documents").click()
        sheet = page.get_by_role("link", name="PDF, A4").first.get_attribute("href")
        self.assertEqual(page.request.get(self.address + sheet).body()[:5], b"%PDF-")


class Find(BrowserCase):
    def test_list_follows_the_search(self) -> None:
        fill_if_empty(get_context(self.app).store)
        page = self.page
        self.open("/procedures/")
        rows = page.locator(".library tbody tr")
        everything = rows.count()
        page.get_by_role("searchbox").press_sequentially("tube butt 51 x 1.5")
        expect(rows).to_have_count(1)
        expect(rows).to_contain_text("Mast, tube in line")
        # The address is the view: it survives a reload and Back.
        page.reload()
        expect(rows).to_have_count(1)
        page.locator(".row-link").click()
        page.go_back()
        expect(rows).to_have_count(1)
        page.get_by_role("searchbox").fill("nothing like it")
        expect(page.locator("[data-results]")).to_contain_text("No results")
        page.get_by_role("searchbox").fill("")
        expect(rows).to_have_count(everything)
        page.locator(".filters summary").click()
        page.locator("select[name=metal]").select_option("316L")
        expect(page).to_have_url(f"{self.address}/procedures/?metal=316L")
        expect(rows).not_to_have_count(everything)
        page.get_by_label("Save this view as").fill("Sea water")
        page.get_by_role("button", name="Save view").click()
        expect(page.locator(".views [aria-current]")).to_have_text("Sea water")
        self.check_access()


class Inbox(BrowserCase):
    def test_chosen_and_dropped(self) -> None:
        fill_if_empty(get_context(self.app).store)
        page = self.page
        self.open("/procedures/inbox")
        name = "bench 200 20260504 101500.jpg"
        files = [
            {"name": f"{i} {name}", "mimeType": "image/jpeg", "buffer": photograph(40 * i)}
            for i in range(2)
        ]
        page.get_by_label("Photographs and arc logs").set_input_files(files)
        page.get_by_role("button", name="Add to the inbox").click()
        lines = page.locator(".inbox li")
        expect(lines).to_have_count(2)
        page.evaluate(DROP, ["dropped.jpg", list(photograph(200))])
        expect(lines).to_have_count(3)
        self.check_access()
        page.locator(".inbox li").first.get_by_role("button", name="Remove").click()
        expect(lines).to_have_count(2)
        page.get_by_role("button", name="Undo").click()
        expect(lines).to_have_count(3)
        page.set_viewport_size({"width": 390, "height": 800})
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
