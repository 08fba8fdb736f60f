"""Four people at work, with links and forms of the pages at random by a seed; see `attack.py`."""

from __future__ import annotations

import collections
import http.client
import http.cookiejar
import json
import multiprocessing
import random
import re
import signal
import statistics
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from dataclasses import dataclass, field
from html.parser import HTMLParser
from pathlib import Path
from typing import Any

from attacked import Server, StayOnPage, run_command

# Actions that block the library for others, end the attack, or are not those of one person.
LEFT_OUT = re.compile(
    r"/shop/(restore|begin|import|export|backup|check|devices|people|work)|\.(zip|sqlite3)$|/static/"
)
PLACES = ("keep", "jobs", "set", "run", "shop", "read", "cut", "tables")
# The start page after a page without links.
STARTS = (
    "/",
    "/?joint=tee",
    "/procedures/",
    "/jobs/",
    "/set-up/",
    "/weld/",
    "/shop/",
    "/inspect/",
    "/templates/",
    "/reference/",
)
LENGTHS = ("90 mm", "380 mm", "12 in", "1 m", "55")
SLOW_S = 2.0


@dataclass
class Form:
    """A form of a page: method, address, fields with their possible values."""

    method: str
    action: str
    fields: list[tuple[str, list[str]]] = field(default_factory=list)
    buttons: list[tuple[str, str]] = field(default_factory=list)
    has_file: bool = False


class Page(HTMLParser):
    """The links and forms of a page."""

    def __init__(self, text: str) -> None:
        """Parse a page."""
        super().__init__()
        self.links: list[str] = []
        self.forms: list[Form] = []
        self._form: Form | None = None
        self._select: tuple[str, list[str]] | None = None
        self._area: tuple[str, list[str]] | None = None
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """Collect links, forms and fields."""
        told = {name: value or "" for name, value in attrs}
        form = self._form
        if tag == "a" and told.get("href", "").startswith("/"):
            self.links.append(told["href"])
        elif tag == "form":
            self._form = Form(told.get("method", "get").lower(), told.get("action", ""))
            self.forms.append(self._form)
        elif form is None or "disabled" in told:
            return
        elif tag == "input":
            self._input(form, told)
        elif tag == "button" and told.get("type", "submit") == "submit":
            form.buttons.append((told.get("name", ""), told.get("value", "")))
        elif tag == "select":
            self._select = (told.get("name", ""), [])
            form.fields.append(self._select)
        elif tag == "option" and self._select:
            self._select[1].append(told.get("value", ""))
        elif tag == "textarea":
            self._area = (told.get("name", ""), [""])
            form.fields.append(self._area)

    def _input(self, form: Form, attributes: dict[str, str]) -> None:
        kind, name = attributes.get("type", "text"), attributes.get("name", "")
        if kind == "file":
            form.has_file = True
        elif kind in ("checkbox", "radio"):
            form.fields.append((name, [attributes.get("value", "on"), ""]))
        elif kind == "submit":
            form.buttons.append((name, attributes.get("value", "")))
        elif name:
            form.fields.append((name, [attributes.get("value", "")]))

    def handle_data(self, data: str) -> None:
        """Collect text."""
        if self._area:
            self._area[1][0] += data

    def handle_endtag(self, tag: str) -> None:
        """Close a form."""
        if tag == "form":
            self._form = None
        elif tag == "select":
            self._select = None
        elif tag == "textarea":
            self._area = None


class Person:
    """A person at work."""

    def __init__(self, address: str, seed: int) -> None:
        """Start a person with random actions."""
        self.address, self.r = address.rstrip("/"), random.Random(seed)
        jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPCookieProcessor(jar), StayOnPage()
        )
        self.answers: collections.Counter[str] = collections.Counter()
        self.odd: list[str] = []
        self.slow, self.worst, self.worst_at = 0, 0.0, ""
        self.times: dict[str, list[float]] = {}
        self.seed, self.files = seed, 0
        self.page = Page("")

    def go(
        self, path: str, data: dict[str, list[str]] | bytes | None = None, kind_sent: str = ""
    ) -> None:
        """Request a page or send a form, and check the answer.

        Args:
            path: The address.
            data: The form, or None.
            kind_sent: Content type of raw data.
        """
        body = urllib.parse.urlencode(data, doseq=True).encode() if isinstance(data, dict) else data
        head = {"Content-Type": kind_sent} if kind_sent else {}
        begun = time.monotonic()
        where, text = "", ""
        try:
            with self.opener.open(
                urllib.request.Request(self.address + path, body, head), timeout=30
            ) as done:
                code, kind, raw = done.status, done.headers.get_content_type(), done.read()
                text = raw.decode("utf-8", "replace") if kind == "text/html" else ""
        except urllib.error.HTTPError as error:
            code, where = error.code, error.headers.get("Location", "")
            text = error.read().decode("utf-8", "replace")
        except (OSError, http.client.HTTPException) as error:
            code = 0
            text = repr(error)
        took = time.monotonic() - begun
        self.slow += took > SLOW_S
        self.times.setdefault(re.sub(r"[0-9]+|\?.*", "#", path), []).append(took)
        if took > self.worst:
            self.worst, self.worst_at = took, f"{'GET' if data is None else 'POST'} {path[:160]}"
        self.answers[f"{'sent' if body is not None else 'asked'} {code}"] += 1
        if code >= 500 or code == 0:
            told = re.sub(r"<[^>]+>|\\s+", " ", text)
            self.odd.append(f"{code} {path[:200]} {' '.join(told.split())[-160:]}")
        if code in (302, 303):
            self.page = Page("")
            self.next = where
        else:
            self.page, self.next, self.here = Page(text), "", path

    next, here = "", "/"

    def act(self) -> None:
        """Perform one action: a link, a form, or a new start."""
        r = self.r
        if self.next:
            self.go(self.next)
            return
        links = [link for link in self.page.links if not LEFT_OUT.search(link)]
        forms = [
            form
            for form in self.page.forms
            if not form.has_file and not LEFT_OUT.search(form.action)
        ]
        kind = r.random()
        if forms and kind < 0.45:
            self._send(r.choice(forms))
        elif links and kind < 0.9:
            self.go(r.choice(links))
        elif kind < 0.94:
            self._give_file()
        else:
            self.go(r.choice(STARTS))

    def _give_file(self) -> None:
        """Export a procedure file, and import it changed and unchanged."""
        number = f"P-{self.r.randint(1, 12):04d}"
        try:
            raw = self.opener.open(f"{self.address}/procedures/{number}/A.json", timeout=30).read()
        except (OSError, http.client.HTTPException):
            return
        self.files += 1
        data = json.loads(raw)
        data["title"] = f"Given {self.seed}-{self.files}"
        token = self.token()
        mark = "----wise"
        body = (
            f'--{mark}\r\nContent-Disposition: form-data; name="csrf_token"\r\n\r\n{token}\r\n'
            f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="p.json"\r\n'
            f"Content-Type: application/json\r\n\r\n{json.dumps(data)}\r\n--{mark}--\r\n"
        )
        self.go("/procedures/read", body.encode(), f"multipart/form-data; boundary={mark}")

    def token(self) -> str:
        """Return the CSRF token of a page."""
        page = self.opener.open(f"{self.address}/?joint=tee", timeout=30).read().decode()
        return re.search(r'name="csrf_token" value="([^"]+)"', page)[1]

    def _send(self, form: Form) -> None:
        r = self.r
        data: dict[str, list[str]] = {}
        for name, values in form.fields:
            if name:
                value = r.choice(values) if values else ""
                if name in ("length", "length_mm") and r.random() < 0.5:
                    value = r.choice(LENGTHS)
                if value or len(values) == 1:
                    data.setdefault(name, []).append(value)
        named = [button for button in form.buttons if button[0]]
        if named:
            name, value = r.choice(named)
            data.setdefault(name, []).append(value)
        action = form.action or self.here
        if form.method == "get":
            query = urllib.parse.urlencode(data, doseq=True)
            self.go(f"{action.partition('?')[0]}?{query}")
        else:
            self.go(action, data)


def run_seeds(job: tuple[str, int, int]) -> dict[str, Any]:
    """Run the actions of several seeds, and return their counts."""
    address, seed, many = job
    person = Person(address, seed)
    for _ in range(many):
        person.act()
    return {
        "answers": person.answers,
        "odd": person.odd,
        "slow": person.slow,
        "worst": (person.worst, person.worst_at),
        "times": person.times,
    }


def acts(many: int) -> None:
    """Run random actions of four people at once, then check the library."""
    peak_mb = [0.0]
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        server = Server(data, "--demo")
        address = server.wait()
        messages: list[str] = []
        threading.Thread(target=lambda: messages.extend(server.process.stderr), daemon=True).start()
        first_mb = server.resident_mb()
        over = threading.Event()

        def weigh() -> None:
            while not over.wait(0.25):
                peak_mb[0] = max(peak_mb[0], server.resident_mb())

        threading.Thread(target=weigh, daemon=True).start()
        begun = time.monotonic()
        with multiprocessing.get_context("spawn").Pool(4) as pool:
            results = pool.map(
                run_seeds, [(address, seed, many // 4) for seed in range(4)], chunksize=1
            )
        took = time.monotonic() - begun
        over.set()
        server.process.send_signal(signal.SIGTERM)
        server.process.wait(20)
        check_result = run_command("check", "--data", str(data))
    answers: collections.Counter[str] = collections.Counter()
    for one in results:
        answers += one["answers"]
    worst = max(one["worst"] for one in results)
    odd = [line for one in results for line in one["odd"]]
    tracebacks = sum("Traceback" in line for line in messages)
    print(
        f"{sum(answers.values())} acts by four in {took:.0f} s: {dict(sorted(answers.items()))};"
        f" over {SLOW_S:g} s {sum(one['slow'] for one in results)}, worst {worst[0]:.2f} s"
        f" ({worst[1]}); tracebacks {tracebacks}; memory {first_mb:.0f} MB, then "
        f"{peak_mb[0]:.0f} MB"
        f" at most; afterwards: {check_result.stdout.strip().splitlines()[-1]}"
    )
    times: dict[str, list[float]] = {}
    for one in results:
        for path, each in one["times"].items():
            times.setdefault(path, []).extend(each)
    for path, each in sorted(times.items(), key=lambda item: -sum(item[1]))[:12]:
        print(
            f"   {sum(each):6.1f} s in all, {len(each)} times, median"
            f" {1000 * statistics.median(each):.0f} ms, worst {1000 * max(each):.0f} ms: {path}"
        )
    for line in odd[:15]:
        print("  ", line)
    for line in messages[-12:] if tracebacks else ():
        print("   |", line.rstrip())
