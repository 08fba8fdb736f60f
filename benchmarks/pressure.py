"""A separate server under pressure: a full disk, stalled clients, many logs; see `attack.py`."""

from __future__ import annotations

import collections
import http.cookiejar
import random
import re
import shutil
import signal
import socket
import sqlite3
import subprocess
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path

from attacked import RUN, Client, Server

PAGES = (
    "/",
    "/?joint=tee",
    "/procedures/",
    "/weld/",
    "/set-up/",
    "/jobs/",
    "/shop/",
    "/reference/",
    "/inspect/",
)
FULL = "the disk is full"


@contextmanager
def small_disk(size: str) -> Iterator[Path]:
    """Yield a separate disk in memory.

    This needs the rights to mount one.
    """
    with tempfile.TemporaryDirectory() as place:
        subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={size}", "tmpfs", place], check=True)
        try:
            yield Path(place)
        finally:
            subprocess.run(["umount", "-l", place], check=False)


def fill(place: Path) -> Path:
    """Fill a disk to its last byte, and return the file."""
    filler = place / "filler"
    with filler.open("ab", buffering=0) as file:
        for size in (65536, 4096, 512, 1):
            try:
                while file.write(b"x" * size):
                    pass
            except OSError:
                continue
    return filler


def _asked(client: Client, path: str) -> tuple[int, str]:
    try:
        return 200, client.get(path).decode("utf-8", "replace")
    except urllib.error.HTTPError as error:
        return error.code, error.read().decode("utf-8", "replace")


def full_disk(_many: int = 0) -> None:
    """Fill the disk while serving and during a write, start on it, kill on it, and free it."""
    wrong: list[str] = []
    answers: collections.Counter[str] = collections.Counter()

    def pages(client: Client, when: str) -> None:
        for path in PAGES:
            code, text = _asked(client, path)
            answers[f"pages {code}"] += 1
            if code != 200 or (when == "full") != (FULL in text.lower()):
                wrong.append(f"{when}: {path} {code} {re.sub('<[^>]+>|s+', ' ', text)[-200:]}")

    def writes(client: Client, when: str, wanted: int) -> int:
        kept = 0
        sent: tuple[tuple[str, dict[str, object]], ...] = (
            ("/procedures/draft", {"link": f"joint=tee&length={answers.total() + 10}+mm"}),
            ("/shop/name", {"name": "Ours"}),
            (f"{here}/runs", {**RUN, "notes": f"{when}-{answers.total()}"}),
        )
        for path, form in sent:
            once = f"{when}-{path}-{answers.total()}"
            code, _ = client.post(path, **form, once=once)
            answers[f"writes {code}"] += 1
            kept += code == 303 and path in ("/procedures/draft", f"{here}/runs")
            if code != wanted:
                wrong.append(f"{when}: {path} {code}")
        return kept

    with small_disk("12m") as place:
        data, kept = place / "data", 0
        server = Server(data, "--demo")
        client = Client(server.wait())
        here = client.post("/procedures/draft", link="joint=tee", once="first")[1]
        kept += 1 + writes(client, "with room", 303)
        for how in (signal.SIGTERM, signal.SIGKILL):
            filler = fill(place)
            pages(client, "full")
            kept += writes(client, "full", 507)
            pages(client, "full")
            server.end(how)
            # Started on a full disk.
            server = Server(data)
            address = server.wait()
            if not address:
                wrong.append(f"does not start on a full disk: {server.end()[-300:]}")
                filler.unlink()
                server = Server(data)
                address = server.wait()
            client = Client(address)
            if filler.exists():
                pages(client, "full")
                kept += writes(client, "full", 507)
                filler.unlink()
            pages(client, "with room again")
            kept += writes(client, "with room again", 303)
        # Gradually, so that it becomes full during a write.
        filler = place / "filler"
        with filler.open("ab", buffering=0) as file:
            for step in range(400):
                with suppress(OSError):
                    file.write(b"x" * 40960)
                code, _ = client.post(f"{here}/runs", **RUN, notes=f"s{step}", once=f"s{step}")
                answers[f"writes {code}"] += 1
                kept += code == 303
                if code not in (303, 507):
                    wrong.append(f"in the midst: {code}")
        filler.unlink()
        kept += writes(client, "with room at last", 303)
        said = server.end(signal.SIGTERM)
        if "Traceback" in said:
            wrong.append(said[-600:])
        with closing(sqlite3.connect(data / "wisearc.sqlite3")) as file:
            integrity = file.execute("PRAGMA integrity_check").fetchone()[0]
            there = file.execute(
                'SELECT (SELECT count(*) FROM run WHERE record LIKE \'%"notes": "%\') +'
                " (SELECT count(*) FROM revision WHERE title LIKE '%ee%')"
            ).fetchone()[0]
        left = [p.name for p in data.rglob("*.part*")]
    print(
        f"a disk of 12 MB, full four times: {dict(sorted(answers.items()))}; book {integrity};"
        f" {kept} acknowledged, {there} rows like them there; half-made files left {len(left)};"
        f" wrong {len(wrong)}"
    )
    for line in wrong[:12]:
        print("  ", line)


def _log(folder: Path, rows: int) -> tuple[Path, str]:
    """Save a log next to a library without columns, and return its file and SHA-256."""
    import arc_logs

    from wisearc.services.runs.kept_files import KeptFiles

    arc_logs.ROWS = rows
    path = folder.parent / "log.csv"
    arc_logs.log_of(path)
    return path, KeptFiles(folder).put_log(path)


def _weighed(server: Server) -> tuple[threading.Event, list[float]]:
    """Record the maximum memory of a server from now on, MB."""
    over, most = threading.Event(), [server.resident_mb()]

    def weigh() -> None:
        while not over.wait(0.02):
            most[0] = max(most[0], server.resident_mb())

    threading.Thread(target=weigh, daemon=True).start()
    return over, most


def logs(rows: int = 0) -> None:
    """Request a log without columns from twelve clients, and delete the columns again."""
    many = rows or 4_000_000
    with tempfile.TemporaryDirectory() as place:
        data = Path(place) / "data"
        server = Server(data, "--demo")
        server.wait()
        server.end(signal.SIGTERM)
        _, sha = _log(data, many)
        server = Server(data)
        address = server.wait().rstrip("/")
        over, most = _weighed(server)
        rest = server.resident_mb()
        answers: collections.Counter[int] = collections.Counter()
        slowest, first = [0.0], [0.0]
        begun = time.monotonic()
        ends = begun + 30

        def read_pages(number: int) -> None:
            r = random.Random(number)
            while time.monotonic() < ends:
                start = r.uniform(0, many / 1000)
                path = f"/weld/logs/{sha}?from={start:.2f}&to={start + r.choice((1, 60, 900)):.2f}"
                asked = time.monotonic()
                try:
                    with urllib.request.urlopen(address + path, timeout=20) as done:
                        done.read()
                        code = done.status
                except urllib.error.HTTPError as error:
                    code = error.code
                except OSError:
                    code = 0
                answers[code] += 1
                slowest[0] = max(slowest[0], time.monotonic() - asked)
                if code == 200 and not first[0]:
                    first[0] = time.monotonic() - begun
                if code == 202:
                    time.sleep(0.3)

        threads = [threading.Thread(target=read_pages, args=(n,)) for n in range(12)]
        for thread in threads:
            thread.start()
        missing = 0
        while time.monotonic() < ends:
            time.sleep(2)
            shutil.rmtree(data / "arcs" / sha, ignore_errors=True)
            missing += 1
        for thread in threads:
            thread.join()
        over.set()
        lives = server.process.poll() is None
        said = server.end(signal.SIGTERM)
    print(
        f"twelve at a log of {many:,} rows whose columns went {missing} times: answers"
        f" {dict(answers)}, first drawn after {first[0]:.1f} s, slowest answer {slowest[0]:.2f} s;"
        f" {rest:.0f} MB at rest, {most[0]:.0f} MB at most (wanted 300); server"
        f" {'lives' if lives else 'is dead'}, tracebacks {said.count('Traceback')}"
    )


def stalled(_many: int = 0) -> None:
    """Open a thousand idle connections and twenty that do not read a file, on each listener.

    Send uploads of unknown clients too.
    """
    with tempfile.TemporaryDirectory() as place:
        data = Path(place) / "data"
        server = Server(data, "--demo")
        server.wait()
        server.end(signal.SIGTERM)
        _, sha = _log(data, 4_000_000)
        server = Server(data, "--shop-network", "127.0.0.2")
        here = Client(server.wait())
        port = int(here.address.rpartition(":")[2])
        over, most = _weighed(server)
        page = here.opener.open(
            urllib.request.Request(
                f"{here.address}/shop/devices/code",
                urllib.parse.urlencode({"csrf_token": here.token}).encode(),
            )
        ).read()
        shown = re.search(rb'class="door-shown[^>]*>([^<]+)<', page)[1]
        code = "".join(char for char in shown.decode() if char.isdigit())
        there = f"http://127.0.0.2:{port}"
        jar = http.cookiejar.CookieJar()
        opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
        token = re.search(
            rb'name="csrf_token" value="([^"]+)"', opener.open(f"{there}/let-in").read()
        )[1].decode()
        sent = {"csrf_token": token, "digits": code, "name": "tablet"}
        opener.open(f"{there}/let-in", urllib.parse.urlencode(sent).encode()).read()
        cookie = "; ".join(f"{one.name}={one.value}" for one in jar)
        held: list[socket.socket] = []
        for host, head in (("127.0.0.1", ""), ("127.0.0.2", f"Cookie: {cookie}\r\n")):
            for _ in range(1000):
                held.append(socket.create_connection((host, port)))
            for _ in range(20):
                one = socket.socket()
                one.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
                one.connect((host, port))
                asked = f"GET /weld/logs/{sha}.csv HTTP/1.1\r\nHost: {host}:{port}\r\n{head}\r\n"
                one.sendall(asked.encode())
                held.append(one)
        worst = 0.0
        for _ in range(40):
            for ask in (
                lambda: here.get("/procedures/"),
                lambda: opener.open(f"{there}/keep/", timeout=20).read(),
            ):
                begun = time.monotonic()
                ask()
                worst = max(worst, time.monotonic() - begun)
        for one in held:
            one.close()
        # 360 MB for a device that is not paired.
        taken = 0
        one = socket.create_connection(("127.0.0.2", port), timeout=10)
        one.sendall(
            f"POST /weld/log HTTP/1.1\r\nHost: 127.0.0.2:{port}\r\nContent-Length:"
            " 377487360\r\n\r\n".encode()
        )
        try:
            for _ in range(360):
                one.sendall(b"x" * 1024 * 1024)
                taken += 1
        except OSError:
            pass
        answer = one.recv(200).decode("latin-1", "replace") if taken < 360 else ""
        one.close()
        over.set()
        said = server.end(signal.SIGTERM)
    print(
        f"2,000 idle and 40 stalled connections on two listeners: worst page {worst:.2f} s (wanted"
        f" under 1); {most[0]:.0f} MB at most; of 360 MB uninvited {taken} MB were sent before it"
        f" was closed ({answer[:30]!r}); tracebacks {said.count('Traceback')}"
    )
