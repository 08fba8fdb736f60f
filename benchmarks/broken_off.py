"""Servers killed during all slow work; see `attack.py`.

Uploads, photographs, backups, restores, archives, searches, purges, and a start that migrates.
"""

from __future__ import annotations

import collections
import contextlib
import io
import json
import multiprocessing
import random
import re
import signal
import sqlite3
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path

from attacked import Client, Server, run_command

LOG = "time_s,current_a\n" + "".join(f"{i / 1000:.3f},{60 + i % 7}\n" for i in range(60_000))
ENDS_S = 2.0


def _children(pid: int) -> list[int]:
    text = Path(f"/proc/{pid}/task/{pid}/children").read_text(encoding="ascii")
    found = [int(one) for one in text.split()]
    for thread in Path(f"/proc/{pid}/task").iterdir():
        with contextlib.suppress(OSError):
            found += [int(one) for one in (thread / "children").read_text().split()]
    return sorted(set(found))


def _lives(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def _multipart(client: Client, path: str, name: str, file: str, data: bytes, **more: str) -> int:
    mark = b"----wise"
    parts = [
        b'Content-Disposition: form-data; name="%s"\r\n\r\n%s' % (key.encode(), value.encode())
        for key, value in {"csrf_token": client.token, **more}.items()
    ]
    parts.append(
        b'Content-Disposition: form-data; name="%s"; filename="%s"\r\n\r\n%s'
        % (name.encode(), file.encode(), data)
    )
    body = b"".join(b"--%s\r\n%s\r\n" % (mark, part) for part in parts) + b"--%s--\r\n" % mark
    head = {"Content-Type": f"multipart/form-data; boundary={mark.decode()}"}
    asked = urllib.request.Request(client.address + path, body, head)
    try:
        return int(client.opener.open(asked, timeout=20).status)
    except urllib.error.HTTPError as error:
        error.read()
        return int(error.code)


def _picture(r: random.Random) -> bytes:
    from PIL import Image

    out = io.BytesIO()
    colour = (r.randrange(256), r.randrange(256), r.randrange(256))
    Image.new("RGB", (900, 700), colour).save(out, "JPEG")
    return out.getvalue()


def _work(client: Client, kind: str, data: Path, r: random.Random) -> None:
    """Start slow work, which continues until the server is killed."""
    if kind in ("log", "photograph"):
        client.post("/weld/source", what="joint=tee&length=90+mm", once=f"k-{r.random()}", port="")
        listed = client.get("/weld/").decode()
        number = re.findall(r"/weld/([0-9]+)/write", listed)
        if not number:
            return
        if kind == "log":
            _multipart(client, "/weld/log", "log", "l.csv", LOG.encode(), number=number[-1])
        else:
            told = {"number": number[-1], "outcome": "not-good", "front": "straw", "who": "R.T."}
            _multipart(client, "/weld/write", "photographs", "p.jpg", _picture(r), **told)
    elif kind == "backup":
        client.post("/shop/backup")
    elif kind == "restore":
        copies = sorted((data / "backups").glob("wisearc-*.sqlite3"))
        if copies:
            client.post("/shop/restore", name=copies[-1].name)
    elif kind == "export":
        client.post("/shop/export")
    elif kind == "import":
        books = sorted((data / "backups").glob("book-*.zip"))
        if books:
            _multipart(client, "/shop/import", "file", "b.zip", books[-1].read_bytes())
    elif kind == "search":
        client.post("/jobs/1/search", what="on")
        client.get("/jobs/1")
    elif kind == "purge":
        client.post("/set-up/purge", what="joint=butt&length=90+mm&back=gas", volume_l="5")


KINDS = (
    "log",
    "photograph",
    "backup",
    "restore",
    "export",
    "import",
    "search",
    "purge",
    "migration",
)


def _older(data: Path) -> None:
    """Downgrade the library to the earlier version, so that the next start migrates it."""
    with contextlib.closing(sqlite3.connect(data / "wisearc.sqlite3")) as file:
        columns = [row[1] for row in file.execute("PRAGMA table_info(person)")]
        if "pin" in columns:
            return
        file.execute("ALTER TABLE person ADD COLUMN pin TEXT NOT NULL DEFAULT ''")
        file.execute("DELETE FROM schema_migration WHERE name LIKE '0013%'")
        file.execute("PRAGMA user_version = 12")
        file.commit()


def _chain(job: tuple[int, int]) -> dict[str, object]:
    seed, many = job
    r, wrong = random.Random(seed), list[str]()
    kinds: collections.Counter[str] = collections.Counter()
    kept: list[tuple[str, int]] = []
    late = 0.0
    with tempfile.TemporaryDirectory() as place:
        data = Path(place) / "data"
        first = Server(data, "--demo")
        client = Client(first.wait())
        for act in ("/shop/backup", "/shop/export"):
            client.post(act)
            while b"still going on" in client.get("/shop/work") or not list(
                (data / "backups").glob("*")
            ):
                time.sleep(0.2)
            time.sleep(1.0)
        first.end(signal.SIGTERM)
        for done in range(many):
            kind = KINDS[(seed + done) % len(KINDS)]
            kinds[kind] += 1
            if kind == "migration":
                _older(data)
            server = Server(data)
            if kind == "migration":
                time.sleep(r.uniform(0.3, 1.6))
                server.end()
                continue
            if not server.wait():
                wrong.append(f"does not start after {done}: {server.end()[-300:]}")
                break
            client = Client(server.address)
            length = r.randint(10, 9999)
            # A restore of an earlier copy legitimately removes data.
            if kind != "restore":
                code, where = client.post(
                    "/procedures/draft", link=f"joint=tee&length={length}+mm", once=f"{seed}-{done}"
                )
                if code == 303:
                    kept.append((where, length))

            def work(client: Client = client, kind: str = kind) -> None:
                with contextlib.suppress(Exception):
                    _work(client, kind, data, r)

            thread = threading.Thread(target=work, daemon=True)
            thread.start()
            time.sleep(r.uniform(0.05, 1.2))
            children = _children(server.process.pid)
            begun = time.monotonic()
            server.end()
            while any(map(_lives, children)) and time.monotonic() - begun < 5:
                time.sleep(0.01)
            late = max(late, time.monotonic() - begun)
            if any(map(_lives, children)):
                wrong.append(f"a child of {kind} lives on")
            thread.join(5)
            if kind == "restore":
                kept = [one for one in kept if _is_there(data, one)]
        server = Server(data)
        if not server.wait():
            wrong.append(f"does not start in the end: {server.end()[-300:]}")
        server.end(signal.SIGTERM)
        check_result = run_command("check", "--data", str(data))
        if check_result.returncode:
            wrong.append(check_result.stdout[-300:])
        wrong += [f"lost: {one}" for one in kept if not _is_there(data, one)]
        left = [str(path.relative_to(data)) for path in data.rglob("*.part*")]
        if left:
            wrong.append(f"half-made after a start: {left[:3]}")
    return {"kinds": kinds, "kept": len(kept), "wrong": wrong, "late": late}


def _is_there(data: Path, one: tuple[str, int]) -> bool:
    number = int(re.search(r"P-0*([0-9]+)", one[0])[1])
    with contextlib.closing(sqlite3.connect(data / "wisearc.sqlite3")) as file:
        rows = file.execute(
            "SELECT joint FROM revision JOIN procedure ON procedure.id = procedure_id"
            " WHERE number = ?",
            (number,),
        ).fetchall()
    return any(json.loads(text).get("length_mm") == one[1] for (text,) in rows)


def broken_off(many: int) -> None:
    """Kill servers, spread over all slow work."""
    each = 25
    jobs = [(seed, each) for seed in range(max(1, many // each))]
    with multiprocessing.get_context("spawn").Pool(2) as pool:
        found = pool.map(_chain, jobs, chunksize=1)
    kinds: collections.Counter[str] = collections.Counter()
    for one in found:
        kinds += one["kinds"]
    wrong = [line for one in found for line in one["wrong"]]
    late = max(one["late"] for one in found)
    print(
        f"{sum(kinds.values())} kills {dict(kinds)}; {sum(one['kept'] for one in found)}"
        f" acknowledged drafts, lost {sum(line.startswith('lost') for line in wrong)}; the last"
        f" child ended {late:.2f} s after its server (wanted 2); wrong {len(wrong)}"
    )
    for line in wrong[:10]:
        print("  ", line)
