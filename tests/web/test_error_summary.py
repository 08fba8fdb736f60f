"""A refused form has a summary at the top, with a link to each field."""

import re

from markupsafe import Markup

from tests.web.case import WebCase
from wisearc.web.error_summary import add_error_summary


class Summary(WebCase):
    def test_refused_run_names_its_fields_at_the_top(self) -> None:
        address = self.keep()
        form = self.run_form(who="", outcome="not-good", **{"measured.bow_mm": "wide"})
        refused = self.post(f"{address}/runs", form)
        self.assertEqual(refused.status_code, 422)
        page = refused.get_data(as_text=True)
        self.assertIn("2 fields to correct", page)
        at = page.index('id="error-summary"')
        self.assertLess(at, page.index("<h1"))
        links = re.findall(r'<li><a href="#([^"]+)">', page[at : at + 1500])
        self.assertEqual(set(links), {"who", "measured-bow_mm"})
        for link in links:
            self.assertIn(f'id="{link}"', page)
        self.assertRegex(page[at : at + 120], "tabindex=.-1. autofocus|autofocus")

    def test_page_without_errors_has_none(self) -> None:
        self.assertNotIn("error-summary", self.client.get("/shop/").get_data(as_text=True))
        wrong = self.client.get("/templates/shims?stock=thick").get_data(as_text=True)
        self.assertIn('<a href="#stock">', wrong)

    def test_error_without_a_field_links_to_itself(self) -> None:
        main = Markup('<p class="field-error" id="error-front">Select the tint.</p>')
        self.assertIn('<a href="#error-front">Select the tint.</a>', add_error_summary(main))
        planned = Markup('<div class="problems"></div>') + main
        self.assertEqual(add_error_summary(planned), planned)
