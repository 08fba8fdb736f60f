"""A server of its own under pressure: a full disk, clients that stall, logs by the dozen; see
`attack.py`.
"""

from __future__ import annotations

import collections
import re
import signal
import sqlite3
import subprocess
import tempfile
import urllib.error
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path

from besieged import RUN, Client, Server

PAGES = ("/", "/?joint=tee", "/keep/", "/run/", "/set/", "/jobs/", "/shop/", "/tables/", "/read/")
FULL = "The disk is full"


@contextmanager
def small_disk(size: str) -> Iterator[Path]:
    """A disk of its own in memory. Needs the rights to mount one."""
    with tempfile.TemporaryDirectory() as place:
        subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={size}", "tmpfs", place], check=True)
        try:
            yield Path(place)
        finally:
            subprocess.run(["umount", "-l", place], check=False)


def fill(place: Path) -> Path:
    """Fill a disk to its last byte. Returns the file that does."""
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
    """Filled while it is served, while a write is under way, started on, killed on, and emptied."""
    wrong: list[str] = []
    answers: collections.Counter[str] = collections.Counter()

    def pages(client: Client, when: str) -> None:
        for path in PAGES:
            code, text = _asked(client, path)
            answers[f"pages {code}"] += 1
            if code != 200 or (when == "full") != (FULL in text):
                wrong.append(f"{when}: {path} {code} {re.sub('<[^>]+>|s+', ' ', text)[-200:]}")

    def writes(client: Client, when: str, wanted: int) -> int:
        kept = 0
        sent: tuple[tuple[str, dict[str, object]], ...] = (
            ("/keep/draft", {"link": f"joint=tee&length={answers.total() + 10}+mm"}),
            ("/shop/name", {"name": "Ours"}),
            (f"{here}/runs", {**RUN, "notes": f"{when}-{answers.total()}"}),
        )
        for path, form in sent:
            once = f"{when}-{path}-{answers.total()}"
            code, _ = client.post(path, **form, once=once)
            answers[f"writes {code}"] += 1
            kept += code == 303 and path in ("/keep/draft", f"{here}/runs")
            if code != wanted:
                wrong.append(f"{when}: {path} {code}")
        return kept

    with small_disk("12m") as place:
        data, kept = place / "data", 0
        server = Server(data, "--demo")
        client = Client(server.wait())
        here = client.post("/keep/draft", link="joint=tee", once="first")[1]
        kept += 1 + writes(client, "with room", 303)
        for how in (signal.SIGTERM, signal.SIGKILL):
            filler = fill(place)
            pages(client, "full")
            kept += writes(client, "full", 507)
            pages(client, "full")
            server.end(how)
            # started on a full disk
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
        # little by little, so that it runs out in the midst of a write
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
            sound = file.execute("PRAGMA integrity_check").fetchone()[0]
            there = file.execute(
                'SELECT (SELECT count(*) FROM run WHERE record LIKE \'%"notes": "%\') +'
                " (SELECT count(*) FROM revision WHERE title LIKE '%ee%')"
            ).fetchone()[0]
        left = [p.name for p in data.rglob("*.part*")]
    print(
        f"a disk of 12 MB, full four times: {dict(sorted(answers.items()))}; book {sound};"
        f" {kept} acknowledged, {there} rows like them there; half-made files left {len(left)};"
        f" wrong {len(wrong)}"
    )
    for line in wrong[:12]:
        print("  ", line)
