"""Attacks on a separate server.

Kills, concurrent writers, slow requests, load, a large library; see `attack.py`.
"""

from __future__ import annotations

import collections
import http.client
import http.cookiejar
import json
import multiprocessing
import random
import re
import resource
import signal
import sqlite3
import statistics
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from pathlib import Path
from typing import Any

from attacked import RUN, Client, Server, run_command


def _chain(job: tuple[int, int]) -> tuple[int, int, list[str]]:
    """Kill a server in one folder repeatedly.

    Return the number of kills, of acknowledged writes, and the errors.
    """
    seed, kills_wanted = job
    r, kept, wrong, kills_done = random.Random(seed), [], [], 0
    with tempfile.TemporaryDirectory() as at:
        folder = Path(at) / "data"
        # Killed during its start, the first time and later.
        for _ in range(kills_wanted // 4):
            server = Server(folder, "--demo")
            time.sleep(r.uniform(0, 0.9))
            server.end()
            kills_done += 1
        while kills_done < kills_wanted:
            server = Server(folder, "--demo")
            if not server.wait():
                wrong.append(f"does not start: {server.end()[-300:]}")
                break
            over = threading.Event()

            def write(number: int, address: str, over: threading.Event = over) -> None:
                try:
                    client = Client(address)
                    while not over.is_set():
                        length = r.randint(10, 9999)
                        code, where = client.post(
                            "/procedures/draft",
                            link=f"joint=tee&length={length}+mm",
                            once=f"{seed}-{number}-{length}-{time.time_ns()}",
                        )
                        if code == 303:
                            kept.append(("draft", where, length))
                            note = f"{time.time_ns()}-{number}"
                            code, where = client.post(where + "/runs", **RUN, notes=note, once=note)
                            if code == 303:
                                kept.append(("run", where, note))
                except (OSError, http.client.HTTPException, TypeError):
                    return

            writers = [threading.Thread(target=write, args=(n, server.address)) for n in range(3)]
            for writer in writers:
                writer.start()
            time.sleep(r.uniform(0.1, 1.2))
            server.end()
            over.set()
            kills_done += 1
            for writer in writers:
                writer.join()
        server = Server(folder, "--demo")
        if not server.wait():
            wrong.append(f"does not start in the end: {server.end()[-300:]}")
        server.end(signal.SIGTERM)
        with sqlite3.connect(folder / "wisearc.sqlite3") as file:
            integrity = file.execute("PRAGMA integrity_check").fetchone()[0]
            rows = file.execute(
                "SELECT number, joint FROM revision JOIN procedure ON procedure.id = procedure_id"
            ).fetchall()
            drafts = {number: json.loads(text).get("length_mm") for number, text in rows}
            notes = {
                json.loads(t).get("notes", "") for (t,) in file.execute("SELECT record FROM run")
            }
            demo = file.execute(
                "SELECT count(*) FROM revision WHERE title LIKE 'Instrument box%'"
            ).fetchone()[0]
        file.close()
        if integrity != "ok" or not demo:
            wrong.append(f"{integrity}, demo {demo}")
        for kind, where, what in kept:
            number = int(re.search(r"P-0*([0-9]+)", where)[1])
            if (kind == "draft" and drafts.get(number) != what) or (
                kind == "run" and what not in notes
            ):
                wrong.append(f"lost: {kind} {where} {what}")
    return kills_done, len(kept), wrong


def kills(many: int) -> None:
    """Kill servers during writes and during their start.

    Acknowledged data must exist, and every folder must start again.
    """
    each = 25
    with multiprocessing.get_context("spawn").Pool(3) as pool:
        found = pool.map(_chain, [(i, each) for i in range(max(1, many // each))], chunksize=1)
    wrong = [line for _, _, lines in found for line in lines]
    lost = sum(line.startswith("lost") for line in wrong)
    print(
        f"{sum(f[0] for f in found)} kills in {len(found)} folders, {sum(f[1] for f in found)}"
        f" acknowledged writes: {lost} lost, {len(wrong) - lost} folders that do not start or are"
        " not sound"
    )
    for line in wrong[:10]:
        print("  ", line)


def writers(many: int) -> None:
    """Write drafts and runs from eight clients at once."""
    answers: collections.Counter[int] = collections.Counter()
    times: list[float] = []
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data")
        address = server.wait()

        def write(number: int) -> None:
            client = Client(address)
            here = client.post("/procedures/draft", link="joint=tee", once=f"w{number}")[1]
            answers[303] += 1
            for i in range(many - 1):
                start = time.monotonic()
                if i % 2:
                    code, _ = client.post(
                        "/procedures/draft",
                        link=f"joint=tee&length={i + 10}+mm",
                        once=f"w{number}-{i}",
                    )
                else:
                    code, _ = client.post(
                        here + "/runs", **RUN, notes=f"{number}-{i}", once=f"w{number}-{i}"
                    )
                times.append(time.monotonic() - start)
                answers[code] += 1

        threads = [threading.Thread(target=write, args=(n,)) for n in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        server.end(signal.SIGTERM)
        with sqlite3.connect(Path(folder) / "data" / "wisearc.sqlite3") as file:
            there = file.execute(
                "SELECT (SELECT count(*) FROM revision) + (SELECT count(*) FROM run)"
            ).fetchone()[0]
        file.close()
    print(
        f"8 writers × {many}: {answers[303]} acknowledged, {answers[303] - there} lost,"
        f" {answers[503]} locked, others {sum(answers.values()) - answers[303] - answers[503]};"
        f" median {1000 * statistics.median(times):.0f} ms, worst {1000 * max(times):.0f} ms"
    )


PINS = "&".join(
    f"pins.{k}={v}"
    for k, v in (
        ("tack_pitch_mm", "10.1+mm"),
        ("cup", 8),
        ("flow_l_min", 9),
        ("current_a", 90),
        ("peak_a", 120),
        ("rate_pps", 2),
        ("on_pct", 40),
        ("background_pct", 20),
        ("stickout_mm", 8),
        ("preflow_s", 1),
        ("postflow_s", 9),
        ("included_angle_deg", 30),
        ("tungsten_mm", 1.6),
        ("rod_diameter_mm", 1.2),
    )
)


def measure_under_attack(_many: int = 0) -> None:
    """Measure a page next to eight attacks of each kind."""
    from tests.samples import CORNER, procedure_data, run
    from wisearc.core.joint.data import make_joint
    from wisearc.core.plan.plan import make_plan
    from wisearc.core.shop.shop import ASSUMED

    rows = [{"format": "wisearc/run", "version": 1, **run(good=False)}] * 2000
    document = procedure_data(make_plan(make_joint(CORNER), ASSUMED), rows)
    attacks: dict[str, Any] = {
        "all pinned, 20 m": lambda c: c.get(f"/?joint=butt&length=20000+mm&{PINS}"),
        "3 mm tacks on 20 m": lambda c: c.get("/?joint=butt&length=20000&pin.tack_pitch_mm=3"),
        "a search of 45,000 digits": lambda c: c.get("/procedures/?q=" + "9" * 45000),
        "32,000 words in a link": lambda c: c.get("/?" + "&".join("a=1" for _ in range(15000))),
        "a fraction of 5,000 digits": lambda c: c.get("/?joint=butt&length=1/" + "9" * 5000),
    }
    # Prepared in advance, because the server should be busy.
    bodies = {
        "300,000 empty runs": {**document, "runs": [{}] * 300000},
        "2,000 runs": document,
        "10,000 faults": {**document, "runs": [{**rows[0], "faults": ["pores"] * 10000}]},
        "3.9 MB of one word": {**document, "runs": [], "status": "x" * 3_900_000},
        "3.9 MB of notes": {**document, "runs": [{**rows[0], "notes": "x" * 3_900_000}]},
        "5 MB, refused by size": {**document, "status": "x" * 5_000_000},
    }
    sent = {name: json.dumps(data).encode() for name, data in bodies.items()} | {
        "4 MB of lists": b"[" + b"[]," * 1_300_000 + b"[]]",
        "4 MB of keys, one twice": (
            b"{" + b",".join(b'"%d":1' % i for i in range(330_000)) + b',"0":1}'
        ),
        "3.8 MB of numbers": b"[" + b"1," * 1_900_000 + b"1]",
    }
    attacks |= {name: lambda c, body=body: c.file(body) for name, body in sent.items()}
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data", "--demo")
        address = server.wait()
        for name, act in attacks.items():
            over, alone, times, busy = threading.Event(), [], [], 0

            def attack(
                act: Any = act, over: threading.Event = over, alone: list[float] = alone
            ) -> None:
                client = Attacker(address)
                while not over.is_set():
                    alone.append(_took(act, client))

            one = _took(act, Attacker(address))
            threads = [threading.Thread(target=attack) for _ in range(8)]
            for thread in threads:
                thread.start()
            client = Client(address)
            until = time.monotonic() + 6
            while time.monotonic() < until:
                start = time.monotonic()
                client.get("/procedures/" if busy % 2 else "/?joint=tee&length=300+mm")
                times.append(time.monotonic() - start)
                busy += 1
            over.set()
            for thread in threads:
                thread.join()
            print(
                f"  {name}: alone {1000 * one:.0f} ms; beside eight: a page median"
                f" {1000 * statistics.median(times):.0f} ms, worst {1000 * max(times):.0f} ms;"
                f" server {server.resident_mb():.0f} MB"
            )
        server.end(signal.SIGTERM)


def _took(act: Any, client: Any) -> float:
    """Return the time of an attack, s, refused or not."""
    start = time.monotonic()
    try:
        act(client)
    except urllib.error.HTTPError as error:
        error.read()
    except OSError:
        pass
    return time.monotonic() - start


class Attacker(Client):
    """A client that sends procedure files too."""

    def file(self, data: bytes) -> bytes:
        """Return a form with an uploaded file."""
        body = (
            (
                "--x\r\nContent-Disposition: form-data;"
                f' name="csrf_token"\r\n\r\n{self.token}\r\n--x\r\nContent-Disposition: form-data;'
                ' name="file"; filename="p.json"\r\n\r\n'
            ).encode()
            + data
            + b"\r\n--x--\r\n"
        )
        asked = urllib.request.Request(
            self.address + "/procedures/read",
            body,
            {"Content-Type": "multipart/form-data; boundary=x"},
        )
        return self.opener.open(asked, timeout=60).read()


def replan(many: int) -> None:
    """Measure a changed word, eight at a time."""
    times: list[float] = []
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data")
        address = server.wait()

        def ask(number: int) -> None:
            client, r = Client(address), random.Random(number)
            for _ in range(many // 8):
                query = (
                    "joint=outside-corner&"
                    f"a.thickness={r.choice(('16 ga', '1.2 mm', '2 mm'))}&"
                    f"length={r.randint(50, 900)}"
                    f" mm&position={r.choice(('flat', 'overhead'))}&changed=length"
                )
                start = time.monotonic()
                client.get(
                    "/?" + urllib.parse.quote(query, safe="=&"),
                    headers={"Accept": "application/json"},
                )
                times.append(time.monotonic() - start)
                # A person is slower than a program.
                time.sleep(r.uniform(0.3, 0.7))

        threads = [threading.Thread(target=ask, args=(n,)) for n in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        server.end(signal.SIGTERM)
    times.sort()
    print(
        "re-plan at 8 clients, each two words a second: median"
        f" {1000 * statistics.median(times):.0f} ms, p95 {1000 * times[int(0.95 * len(times))]:.0f}"
        f" ms, worst {1000 * times[-1]:.0f} ms"
    )


def load(minutes: int) -> None:
    """Send pages, searches, plans, drafts and runs for some minutes, eight at a time.

    Measure the memory.
    """
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder) / "data", "--demo")
        address, over, count, wrong = (
            server.wait(),
            threading.Event(),
            collections.Counter(),
            collections.Counter(),
        )

        def work(number: int) -> None:
            client, r = Client(address), random.Random(number)
            while not over.is_set():
                n = r.randint(1, 8)
                try:
                    for path in (
                        f"/?joint=tee&length={r.randint(10, 20000)}+mm",
                        f"/?link=joint%3Dtee&joint=butt&a.thickness={r.uniform(0.5, 3):.2f}+mm",
                        "/procedures/?q=304L",
                        f"/procedures/P-000{n}/A",
                        f"/procedures/P-000{n}/A/print",
                        f"/procedures/P-000{n}/A.json",
                        "/reference/",
                        "/shop/",
                        f"/compare?left=kept:P-000{n}/A&right=joint=tee",
                    ):
                        client.get(path)
                        count["read"] += 1
                        time.sleep(r.uniform(0, 0.2))
                    if r.random() < 0.05:
                        _, where = client.post(
                            "/procedures/draft", link=f"joint=tee&length={r.randint(10, 9999)}+mm"
                        )
                        client.post(where + "/runs", **RUN, notes="x" * 500)
                        count["written"] += 2
                except (OSError, http.client.HTTPException) as error:
                    wrong[str(error)] += 1

        threads = [threading.Thread(target=work, args=(n,)) for n in range(8)]
        for thread in threads:
            thread.start()
        statuses = []
        for _ in range(minutes * 6):
            time.sleep(10)
            statuses.append(server.resident_mb())
        over.set()
        for thread in threads:
            thread.join()
        server.end(signal.SIGTERM)
    tenth = max(1, len(statuses) // 10)
    first, last = (
        statistics.mean(part) for part in (statuses[tenth : 2 * tenth], statuses[-tenth:])
    )
    print(
        f"{minutes} minutes' load, {count['read']} pages read and {count['written']} writes,"
        f" {sum(wrong.values())} faults {dict(wrong)}: {first:.0f} MB after a tenth of it,"
        f" {last:.0f} MB at its end, {100 * (last / first - 1):+.1f} %"
    )


def large(many: int) -> None:
    """Measure the list of a number of procedures with five times as many runs.

    Time, and memory of the server.
    """
    from bench_library import build_library

    with tempfile.TemporaryDirectory() as at:
        folder = Path(at) / "data"
        build_library(folder, many or 20000)
        size = (folder / "wisearc.sqlite3").stat().st_size / 1e6
        start = time.monotonic()
        server = Server(folder)
        address = server.wait()
        up = time.monotonic() - start
        client = Client(address)
        client.get("/procedures/")
        before = server.resident_mb()
        told = []
        for name, path in (
            ("list", "/procedures/"),
            ("page 150", "/procedures/?page=150"),
            ("last page", "/procedures/?page=99999"),
            ("proved", "/procedures/?status=proved&page=3"),
            ("search 304L", "/procedures/?q=304L"),
            ("search tray 16 ga", "/procedures/?q=tray+16+ga"),
            ("search of one", "/procedures/?q=P-0042"),
            ("search of all, by state", "/procedures/?q=er3&status=draft"),
            ("a record", "/procedures/P-0042/A"),
        ):
            times = []
            for _ in range(15):
                start = time.monotonic()
                client.get(path)
                times.append(time.monotonic() - start)
            told.append(f"{name} {1000 * statistics.median(times):.0f} ms")
        grown = server.resident_mb() - before
        took = {}
        for name, command in (
            ("backup", ("backup", f"{at}/b")),
            ("check", ("check",)),
            ("export", ("export", f"{at}/a.zip")),
        ):
            start = time.monotonic()
            run_command(*command, "--data", str(folder)).check_returncode()
            took[name] = time.monotonic() - start
        start = time.monotonic()
        done = run_command("import", f"{at}/a.zip", "--data", f"{at}/new")
        took["import"] = time.monotonic() - start
        server.end(signal.SIGTERM)
        worst_s = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1000
    print(
        f"a book of {many} procedures and {5 * many} runs, {size:.0f} MB: served after {up:.1f} s;"
        f" {'; '.join(told)}; server grew by {grown:.1f} MB"
    )
    print(
        f"  long work: {', '.join(f'{k} {v:.0f} s' for k, v in took.items())}; most memory of any"
        f" process {worst_s:.0f} MB; {done.stdout.strip()}{done.stderr[-200:]}"
    )
