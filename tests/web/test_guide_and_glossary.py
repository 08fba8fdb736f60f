"""The guide inside the product, the glossary, and the links from sentences to terms."""

import re
import unittest
from unittest import mock

from tests.web.case import WebCase
from wisearc.core import catalogue
from wisearc.core.errors import CatalogueError
from wisearc.presenters.glossary import link_terms


class Guide(WebCase):
    def test_every_page_opens_with_its_pictures(self) -> None:
        index = self.client.get("/guide/").get_data(as_text=True)
        pages = re.findall(r'href="(/guide/[a-z-]+)"', index)
        self.assertEqual((len(pages), pages[0]), (17, "/guide/first-weld"))
        self.assertIn("Your first weld", index)
        for address in pages:
            page = self.client.get(address)
            self.assertEqual(page.status_code, 200)
            for picture in re.findall(
                r'src="(/guide/pictures/[^"]+)"', page.get_data(as_text=True)
            ):
                self.assertEqual(self.client.get(picture).mimetype, "image/png")

    def test_search(self) -> None:
        found = self.client.get("/guide/?q=vent+dams").get_data(as_text=True)
        self.assertIn("Purge the root", found)
        self.assertNotIn("Cut tube ends", found)
        nothing = self.client.get("/guide/?q=<b>zebra").get_data(as_text=True)
        self.assertIn("No results", nothing)
        self.assertNotIn("<b>zebra", nothing)

    def test_search_finds_terms_and_slang(self) -> None:
        found = self.client.get("/guide/?q=Sugar").get_data(as_text=True)
        self.assertIn('href="/reference/glossary#oxidised-root"', found)
        self.assertNotIn("No results", found)

    def test_an_unknown_page(self) -> None:
        self.assertEqual(self.client.get("/guide/none").status_code, 404)

    def test_help_leads_to_both(self) -> None:
        page = self.client.get("/plan").get_data(as_text=True)
        self.assertIn('href="/guide/"', page)
        self.assertIn('href="/reference/glossary"', page)


class Glossary(WebCase):
    def test_every_term_is_on_the_page(self) -> None:
        page = self.client.get("/reference/glossary").get_data(as_text=True)
        terms = catalogue.load_glossary()
        self.assertGreaterEqual(len(terms), 120)
        for key in terms:
            self.assertIn(f'id="{key}"', page)
        self.assertIn("Also: sugar, sugaring", page)
        self.assertGreater(page.count("glossary-drawing"), 8)

    def test_a_sentence_of_a_plan_links_to_a_term(self) -> None:
        page = self.client.get("/?joint=butt").get_data(as_text=True)
        self.assertIn('href="/reference/glossary#gas-lens"', page)


class Terms(unittest.TestCase):
    def test_links(self) -> None:
        linked = str(link_terms("The stick-out is long & a gas lens <b> helps.", "/g"))
        self.assertIn(">stick-out</a> is long &amp; a <a", linked)
        self.assertIn('href="/g#gas-lens"', linked)
        self.assertIn("&lt;b&gt; helps.", linked)

    def test_slang_leads_to_the_term(self) -> None:
        self.assertIn("#oxidised-root", link_terms("It has sugaring.", "/g"))

    def test_one_link_a_term_and_three_a_sentence(self) -> None:
        text = "Gas lens, gas lens, stick-out, post-flow, pre-flow."
        self.assertEqual(str(link_terms(text, "/g")).count("<a "), 3)

    def test_parts_of_words_and_common_words_stay(self) -> None:
        text = "A subpost-flowing root of the run."
        self.assertEqual(str(link_terms(text, "/g")), text)

    def test_a_search_needs_each_word_at_the_start_of_a_word(self) -> None:
        def keys(search: str) -> set[str]:
            return {term.key for term in catalogue.find_terms(search)}

        self.assertIn("gas-lens", keys("LENS gas"))
        self.assertNotIn("gas-lens", keys("lens purge"))
        self.assertEqual(keys("ens"), set())
        self.assertEqual(keys(" "), set())
        self.assertEqual(keys("[("), set())

    def test_two_terms_with_one_name_are_refused(self) -> None:
        rows = {
            "a": {"term": "one", "text": "It is one."},
            "b": {"term": "two", "text": "It is two.", "also": ["One"]},
        }
        self.addCleanup(catalogue.load_glossary.cache_clear)
        catalogue.load_glossary.cache_clear()
        with (
            mock.patch.object(catalogue.tables, "read_rows", lambda name, section: rows),
            self.assertRaisesRegex(CatalogueError, "is a name of a too"),
        ):
            catalogue.load_glossary()
