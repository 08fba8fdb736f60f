"""Stored text with markup, direction marks and control characters is shown as text."""

import csv
import io
import json
import re
import unittest
import xml.etree.ElementTree as ElementTree

import ezdxf
import pypdf

from tests.jobs import FOUR_SEAMS
from tests.samples import SHOP
from tests.web.case import WebCase
from wisearc.core.jobs.job_data import make_job
from wisearc.core.shop.data import make_shop
from wisearc.services.inventory import shop_files
from wisearc.services.jobs import jobs
from wisearc.services.people import people
from wisearc.store.database import db

MARK = "planted"
ODD = f"\"'><b id={MARK}>&amp;{{{{7*7}}}}\u202e\u2066\u200b%%d;=1</b><!--"
STARTS = (
    "/",
    "/plan",
    "/procedures/",
    "/jobs/",
    "/set-up/",
    "/weld/",
    "/shop/",
    "/shop/people/",
    "/inspect/",
    "/templates/",
)
MAX_PAGES = 170
HEAD = ("format", "version")
# what ends an attribute, or stands outside of one, unescaped
RAW = re.compile(rf"<b id={MARK}|&amp;amp;49")


def odd(most: int) -> str:
    return ODD[:most]


class Hostile(WebCase):
    def setUp(self) -> None:
        super().setUp()
        shop = json.loads(json.dumps(SHOP))
        shop["name"] = odd(40)
        for machine in (shop["machines"][0], shop["torches"][0], shop["cylinders"][0]):
            machine["name"] = odd(40)
        shop["torches"][0]["machine"] = odd(40)
        db.connect(reuse_if_open=True)
        shop_files.replace_lists(make_shop({k: v for k, v in shop.items() if k not in HEAD}))
        db.close()
        address = self.keep(
            "joint=outside-corner&a.thickness=16+ga&length=380+mm&title=" + quoted(odd(60))
        )
        self.record = re.sub(r"[?#].*", "", address)
        told = self.run_form(notes=f"{ODD}\n\t{ODD}", who=odd(20), machine=odd(40))
        told["outcome"] = "not-good"
        done = self.post(f"{self.record}/runs", told)
        errors = re.findall(r"field-error[^>]*>([^<]+)", done.get_data(as_text=True))
        self.assertEqual(done.status_code, 303, errors)
        job = json.loads(json.dumps(FOUR_SEAMS))
        job["title"] = odd(100)
        for seam in job["seams"]:
            seam["title"] = odd(60)
        jobs.begin(odd(100), job=make_job(job))
        people.enter("<b>", odd(40).replace("\u202e", ""), "welder")
        db.close()
        self.client.set_cookie("who", "<b>")

    def test_pages_and_files(self) -> None:
        waiting = [*STARTS, f"{self.record}/print", f"{self.record}/drawings", "/jobs/1/plan.json"]
        name = quoted(odd(30))
        size = "kind=cope&branch=25+mm&wall=1.2+mm&run=51+mm&angle=45"
        waiting += [
            f"/templates/template.{kind}?{size}&name={name}" for kind in ("svg", "dxf", "pdf")
        ]
        seen, kinds, shown = set(), set(), 0
        while waiting and len(seen) < MAX_PAGES:
            path = waiting.pop(0)
            if path in seen:
                continue
            seen.add(path)
            with self.client.get(path, follow_redirects=True) as done:
                self.assertLess(done.status_code, 500, path)
                kinds.add(done.mimetype)
                if done.status_code == 200:
                    text = self.read_answer(path, done)
                    shown += MARK in text
                    if done.mimetype == "text/html":
                        found = re.findall(r'href="(/[^"#]*)', text.replace("&amp;", "&"))
                        waiting += [p for p in found if "/static/" not in p and p not in seen]
        self.assertGreater(shown, 30)
        self.assertGreaterEqual(
            kinds, {"text/html", "image/svg+xml", "image/vnd.dxf", "application/pdf", "text/csv"}
        )

    def read_answer(self, path: str, done) -> str:
        """Return the contents of an answer, parsed by its type."""
        raw = done.get_data()
        if done.mimetype == "application/pdf":
            return " ".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(raw)).pages)
        if "dxf" in done.mimetype:
            drawing = ezdxf.read(io.StringIO(raw.decode()))
            self.assertFalse(drawing.audit().errors, path)
            return raw.decode()
        text = raw.decode("utf-8")
        if done.mimetype == "text/html":
            self.assertNotRegex(text, RAW, path)
            for svg in re.findall(r"<svg.*?</svg>", text, re.S):
                ElementTree.fromstring(svg)
        elif done.mimetype == "image/svg+xml":
            ElementTree.fromstring(text)
        elif done.mimetype == "text/csv":
            for row in csv.reader(io.StringIO(text), strict=True):
                for cell in row:
                    self.assertNotIn(cell[:1], ("=", "@"), path)
        elif done.mimetype == "application/json":
            json.loads(text)
        return text

    def test_control_characters(self) -> None:
        for char in "\x00\x07\x1b\x7f\x85\u2028":
            text = f"a{char}b"
            for path, form in (
                ("/procedures/draft", {"link": "joint=butt&title=" + quoted(text)}),
                ("/shop/name", {"name": text}),
                (f"{self.record}/runs", self.run_form(notes=text)),
                ("/jobs/new", {"title": text}),
                ("/shop/people/enter", {"initials": text, "role": "welder"}),
            ):
                with self.subTest(path=path, char=ascii(char)):
                    self.assertIn(self.post(path, form).status_code, (303, 400, 422))
        for path in ("/procedures/", "/shop/", "/jobs/", "/shop/people/", self.record):
            with self.client.get(path) as done:
                self.assertEqual(done.status_code, 200, path)
                self.assertNotRegex(done.get_data(as_text=True), "[\x00\x07\x1b\x7f]", path)


def quoted(text: str) -> str:
    from urllib.parse import quote

    return quote(text, safe="")


if __name__ == "__main__":
    unittest.main()
