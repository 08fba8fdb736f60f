"""Access control.

Host, Origin and browser metadata of a request; separate cookies; the printed address.
"""

import tempfile
import unittest
from pathlib import Path

from tests.web.case import WebCase
from wisearc.core.errors import InputError
from wisearc.web import create_app
from wisearc.web.gate import ADDRESSES, list_addresses

OWN = "127.0.0.1:8765"


class Gate(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.app.config[ADDRESSES] = list_addresses(8765, "https://bench.local")

    def status(self, path: str = "/", host: str = OWN, method: str = "GET", **headers: str) -> int:
        sent = {"Host": host, **{name.replace("_", "-"): value for name, value in headers.items()}}
        with self.client.open(path, method=method, headers=sent) as done:
            return done.status_code

    def test_host(self) -> None:
        for host, code in (
            (OWN, 200),
            ("localhost:8765", 200),
            ("LOCALHOST:8765", 200),
            ("bench.local", 303),
            ("127.0.0.1", 421),
            ("evil.example:8765", 421),
            ("127.0.0.1:8766", 421),
            ("127.0.0.1:8765.evil.example", 421),
            ("", 421),
            ("evil.example@127.0.0.1:8765", 421),
            ("[::1]:8765", 421),
        ):
            for path in ("/", "/procedures/", "/static/look.css", "/nowhere"):
                with self.subTest(host=host, path=path):
                    here = {
                        (200, "/nowhere"): 404,
                        (303, "/static/look.css"): 200,
                        (303, "/nowhere"): 303,
                    }.get((code, path), code)
                    self.assertEqual(self.status(path, host), here)

    def test_forwarded_request_counts_as_network(self) -> None:
        for name in (
            "Forwarded",
            "X_Forwarded_For",
            "X_Forwarded_Host",
            "X_Forwarded_Proto",
            "X_Real_IP",
            "Via",
        ):
            with self.subTest(name):
                self.assertEqual(self.status(**{name: "127.0.0.1"}), 421)
                self.assertEqual(self.status(host="bench.local", **{name: "127.0.0.1"}), 303)

    def test_request_from_another_site(self) -> None:
        for site, mode, dest, code in (
            ("none", "navigate", "document", 200),
            ("same-origin", "cors", "empty", 200),
            ("cross-site", "navigate", "document", 200),
            ("cross-site", "navigate", "iframe", 403),
            ("cross-site", "no-cors", "image", 403),
            ("same-site", "cors", "empty", 403),
        ):
            with self.subTest(site=site, mode=mode, dest=dest):
                got = self.status(Sec_Fetch_Site=site, Sec_Fetch_Mode=mode, Sec_Fetch_Dest=dest)
                self.assertEqual(got, code)

    def test_origin_of_a_post(self) -> None:
        """400 is the next door: the page's own token."""
        for origin, code in (
            ("http://127.0.0.1:8765", 400),
            ("https://bench.local", 403),
            ("http://bench.local", 403),
            ("null", 403),
            ("http://evil.example", 403),
            ("http://127.0.0.1:3000", 403),
        ):
            with self.subTest(origin=origin):
                self.assertEqual(
                    self.status("/procedures/draft", method="POST", Origin=origin), code
                )
        self.assertEqual(
            self.status("/procedures/draft", method="POST", Sec_Fetch_Site="same-site"), 403
        )
        self.assertEqual(self.status("/procedures/draft", method="POST"), 400)

    def test_own_cookie(self) -> None:
        self.assertIn(
            "HttpOnly", self.client.get("/plan", headers={"Host": OWN}).headers["Set-Cookie"]
        )
        with tempfile.TemporaryDirectory() as folder:
            other = create_app(Path(folder))
        names = {app.config["SESSION_COOKIE_NAME"] for app in (self.app, other)}
        self.assertEqual(len(names), 2)

    def test_printed_as_configured_not_as_asked(self) -> None:
        self.app.config[ADDRESSES] = ("http://localhost",)
        here = self.keep()
        self.app.config[ADDRESSES] = list_addresses(8765, "http://bench.local:80")
        sheet = self.client.get(here + "/print", headers={"Host": "localhost:8765"}).get_data(
            as_text=True
        )
        self.assertIn("http://bench.local:80/procedures/P-0001/A", sheet)
        self.assertNotIn("localhost", sheet)

    def test_no_address(self) -> None:
        for bad in (
            "bench.local",
            "ftp://x",
            "http://",
            "http://a/b",
            "http://a?b",
            "http://u@a",
            "http://a:0",
            "http://a:x",
            "http://[",
            "javascript:x",
        ):
            with (
                self.subTest(bad=bad),
                self.assertRaisesRegex(InputError, "must be an address without a path"),
            ):
                list_addresses(8765, bad)
        self.assertEqual(list_addresses(80)[0], "http://127.0.0.1")


if __name__ == "__main__":
    unittest.main()
