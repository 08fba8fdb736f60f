"""Addresses of earlier versions: printed sheets and saved pages carry them."""

import io

from tests.web.case import WebCase
from wisearc.web.old_addresses import PAGES, SECTIONS


class OldAddresses(WebCase):
    def test_a_page_moves_for_good(self) -> None:
        for old, today in (
            ("/keep/P-0001/A", "/procedures/P-0001/A"),
            ("/keep", "/procedures/"),
            ("/keep/", "/procedures/"),
            ("/set/plan?joint=butt&length=300+mm", "/set-up/plan?joint=butt&length=300+mm"),
            ("/run/at?what=kept:P-0001/A", "/weld/at?what=kept:P-0001/A"),
            ("/read/record", "/inspect/record"),
            ("/cut/?kind=mitre&angle=90", "/templates/?kind=mitre&angle=90"),
            ("/tables/sources", "/reference/sources"),
        ):
            with self.subTest(old=old):
                moved = self.client.get(old)
                self.assertEqual((moved.status_code, moved.headers["Location"]), (301, today))

    def test_a_renamed_page_moves_for_good(self) -> None:
        for old, today in (
            ("/habits?theme=dark", "/preferences?theme=dark"),
            ("/inspect/own/in-line/austenitic", "/inspect/shop-history/in-line/austenitic"),
            ("/inspect/record.csv", "/inspect/statistics.csv"),
            ("/jobs/3/buy.csv", "/jobs/3/materials.csv"),
            ("/jobs/3/entry", "/jobs/3/seams"),
            ("/jobs/3/takes", "/jobs/3/materials"),
            ("/jobs/3/warp", "/jobs/3/distortion"),
            ("/jobs/buy", "/jobs/materials"),
            ("/shop/care", "/shop/maintenance"),
            ("/shop/schools", "/shop/preferences"),
            ("/weld/beside/P-0001/A?left=2", "/weld/compare/P-0001/A?left=2"),
        ):
            with self.subTest(old=old):
                moved = self.client.get(old)
                self.assertEqual((moved.status_code, moved.headers["Location"]), (301, today))
        form = {"key": "tip_school", "value": "needle", **self.tokens()}
        moved = self.client.post("/shop/schools", data=form)
        self.assertEqual((moved.status_code, moved.headers["Location"]), (308, "/shop/preferences"))

    def test_a_renamed_page_opens(self) -> None:
        self.keep()
        for page in set(PAGES.values()):
            if "{rest}" not in page:
                self.assertLess(self.client.get(page).status_code, 400, page)

    def test_every_section_opens(self) -> None:
        for section in SECTIONS:
            with self.subTest(section=section):
                page = self.client.get(f"/{section}/", follow_redirects=True)
                self.assertEqual(page.status_code, 200)

    def test_old_post_is_redirected_to_the_new_address(self) -> None:
        self.keep()
        form = {"link": "joint=butt&length=300+mm", **self.tokens()}
        moved = self.client.post("/keep/draft", data=form)
        self.assertEqual((moved.status_code, moved.headers["Location"]), (308, "/procedures/draft"))
        sent = self.client.post("/keep/draft", data=form, follow_redirects=True)
        self.assertIn("P-0002 A", sent.get_data(as_text=True))

    def test_a_post_without_a_token_saves_nothing(self) -> None:
        sent = self.client.post(
            "/keep/draft", data={"link": "joint=butt&length=300+mm"}, follow_redirects=True
        )
        self.assertEqual(sent.status_code, 400)
        self.assertIn("No procedures yet", self.client.get("/procedures/").get_data(as_text=True))

    def test_a_large_file_keeps_its_limit(self) -> None:
        log = b"time_s,current_a\n" + b"0,50\n" * 200_000
        sent = self.client.post("/run/log", data={"log": (io.BytesIO(log), "log.csv")})
        self.assertEqual(sent.status_code, 308)

    def test_other_addresses_stay_unknown(self) -> None:
        for address in ("/kept/", "/sets/", "/running", "/keeps/P-0001/A"):
            self.assertEqual(self.client.get(address).status_code, 404, address)
