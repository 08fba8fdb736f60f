"""The printed sheet in a second layout engine: one page of A4 and of Letter, complete words."""

import unittest
from urllib.parse import urlparse

from weasyprint import CSS, HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse

from tests.web.case import WebCase


class Local(URLFetcher):
    """Fetches from the application alone; anything else is refused."""

    def __init__(self, client) -> None:
        super().__init__()
        self.client = client
        self.refused: list[str] = []

    def fetch(self, url, headers=None):
        """The application's own answer."""
        place = urlparse(url)
        if place.scheme == "data":
            return super().fetch(url, headers)
        if place.hostname != "localhost":
            self.refused.append(url)
            raise ValueError(f"{url} is not of this application")
        with self.client.get(place.path) as response:
            return URLFetcherResponse(url, response.data, {"Content-Type": response.content_type})


class Paper(WebCase):
    def pages(self, path: str, size: str) -> list:
        """The laid-out pages of a path on a size of paper."""
        fetcher = Local(self.client)
        text = self.client.get(path).get_data(as_text=True)
        document = HTML(string=text, base_url="http://localhost/", url_fetcher=fetcher)
        laid = document.render(
            stylesheets=[
                CSS(
                    string=(
                        f"@page {{ size: {size}; margin: 11mm 12mm }} html {{ background: #fff }}"
                    )
                )
            ]
        )
        self.assertEqual(fetcher.refused, [])
        return laid.pages

    def test_one_page(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(), page=here + "/runs")
        for size in ("A4", "Letter"):
            self.assertEqual(len(self.pages(here + "/print", size)), 1, size)

    def test_drawings_are_drawn(self) -> None:
        here = self.keep()
        self.assertGreaterEqual(len(self.pages(here + "/drawings", "A4")), 2)


if __name__ == "__main__":
    unittest.main()
