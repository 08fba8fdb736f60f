"""Equipment as a pasted list, the usual parts, and the kit, as pages."""

import re

from tests.web.case import WebCase
from wisearc.core.shop.words import format_item
from wisearc.services.inventory import shop


class PastedList(WebCase):
    def paste(self, text: str, **more: str) -> object:
        return self.post("/shop/list", {"list": text, **more}, page="/shop/")

    def list_labels(self, key: str) -> set[str]:
        return {format_item(line.item) for line in shop.list_lines(key)}

    def test_clear_list_is_entered_at_once(self) -> None:
        done = self.paste("17 torch, gas lens 1/16, #6 cup x 3, 308 1/16\nargon 50 L")
        self.assertEqual(done.status_code, 303)
        page = self.client.get(done.location).get_data(as_text=True)
        self.assertIn("5 items added.", page)
        self.assertEqual(
            self.list_labels("parts") & {"cup no. 6, for a gas lens (large)"},
            {"cup no. 6, for a gas lens (large)"},
        )
        (cup,) = [line.item for line in shop.list_lines("parts") if "cup" in format_item(line.item)]
        self.assertEqual(cup.count, 3)

    def test_open_choices_are_asked_and_nothing_is_entered_before(self) -> None:
        asked = self.paste("gas lens 1.6, collet body 1.6, #6 cup x 3")
        self.assertEqual(asked.status_code, 422)
        text = asked.get_data(as_text=True)
        self.assertIn("“#6 cup x 3”: Which front end does this cup fit?", text)
        # An item with an open question is not in the list of known items.
        self.assertNotIn("cup no. 6", text)
        self.assertFalse(shop.list_lines("parts"))
        number = re.search(r'name="pick.(\d)"', text)
        assert number is not None
        done = self.paste("gas lens 1.6, collet body 1.6, #6 cup x 3", **{f"pick.{number[1]}": "1"})
        self.assertEqual(done.status_code, 303)
        self.assertEqual(len(shop.list_lines("parts")), 3)
        self.assertIn("cup no. 6, for a collet body (large)", self.list_labels("parts"))

    def test_address_of_the_list_leads_to_the_shop(self) -> None:
        self.assertEqual(self.client.get("/shop/list").location, "/shop/")

    def test_unknown_lines_stay_with_their_reason(self) -> None:
        asked = self.paste("gas lens 1.6\nflux capacitor")
        self.assertIn("flux capacitor", asked.get_data(as_text=True))
        self.assertFalse(shop.list_lines("parts"))
        rest = self.paste("gas lens 1.6\nflux capacitor", known="yes")
        self.assertEqual(rest.status_code, 422)
        text = rest.get_data(as_text=True)
        self.assertIn("1 item added.", text)
        self.assertIn(">flux capacitor</textarea>", text)
        self.assertEqual(len(shop.list_lines("parts")), 1)
        self.assertEqual(self.paste("  \n ,").status_code, 422)

    def test_one_field_takes_a_list_too(self) -> None:
        done = self.post("/shop/enter", {"what": "#6 cup, 17 torch", "count": "1"}, page="/shop/")
        self.assertEqual(done.status_code, 422)
        done = self.post(
            "/shop/enter", {"what": "gas lens 1/16, 17 torch", "count": "1"}, page="/shop/"
        )
        self.assertEqual(done.status_code, 303)
        self.assertEqual(len(shop.list_lines("torches")), 1)

    def test_one_part_asks_about_the_others(self) -> None:
        self.paste("cup 8 lens, 17 torch, 1/16 blue")
        page = self.client.get("/shop/").get_data(as_text=True)
        self.assertIn("is entered. Plans treat what is not in this list as not owned.", page)
        self.assertEqual(self.post("/shop/parts/usual", {}, page="/shop/").status_code, 303)
        self.assertNotIn("not owned", self.client.get("/shop/").get_data(as_text=True))
        self.assertIn("gas lens 1.6 mm (large)", " ".join(self.list_labels("parts")))

    def test_kit_as_page_and_csv(self) -> None:
        page = self.client.get("/shop/kit?family=small&work=tube").get_data(as_text=True)
        self.assertIn("(small)", page)
        self.assertNotIn("(large)", page)
        sent = self.client.get("/shop/kit.csv?family=large&work=beginner")
        self.assertEqual(sent.mimetype, "text/csv")
        self.assertIn("(large)", sent.get_data(as_text=True))
        self.assertEqual(self.client.get("/shop/kit?family=huge").status_code, 422)
        self.assertEqual(self.client.get("/shop/kit.csv?work=boats").status_code, 422)
