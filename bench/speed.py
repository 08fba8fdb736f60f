"""Speed and weight, run by hand: ratios within one run on one machine, and sizes.

.venv/bin/python bench/speed.py
"""

from __future__ import annotations

import json
import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
JOINT = {"joint": "outside-corner", "members": [{"metal": "304L", "thickness": "16 ga"}] * 2, "length": "380 mm"}
QUERY = "joint=outside-corner&a.thickness=16+ga&length=380+mm"


def median_ms(act: Callable[[], object], times: int) -> float:
    """Median time of an act, ms."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken) * 1e3


def core() -> None:
    """The plan in the core."""
    from wisearc.core.joint_data import make_joint
    from wisearc.core.plan import make_plan

    joint = make_joint(JOINT)
    print(f"plan in the core: {median_ms(lambda: make_plan(joint), 300):.2f} ms (wanted under 5)")


def request() -> None:
    """A changed word, against the same bytes served as a static file."""
    from wisearc.web import create_app

    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Path(folder))
        client = app.test_client()
        body = client.get(f"/plan/answers?{QUERY}").data
        static = Path(app.static_folder) / "bench.tmp.json"
        static.write_bytes(body)
        try:
            served = median_ms(lambda: client.get("/static/bench.tmp.json").data, 60)
        finally:
            static.unlink()
        answered = median_ms(lambda: client.get(f"/plan/answers?{QUERY}").data, 60)
    print(
        f"changed word: {answered:.1f} ms, {answered / served:.1f} times the same {len(body) / 1000:.0f} kB as a static file"
    )


def command() -> None:
    """The command, against a bare interpreter start."""
    given = json.dumps({"format": "wisearc/joint", "version": 1, **JOINT}).encode()

    # as installed: compiled modules are kept
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def run(*args: str) -> None:
        subprocess.run([sys.executable, *args], input=given, capture_output=True, check=True, cwd=ROOT, env=environment)

    run("-m", "wisearc", "plan", "-")

    bare = median_ms(lambda: run("-c", "pass"), 7)
    plan = median_ms(lambda: run("-m", "wisearc", "plan", "-"), 7)
    print(f"wisearc plan: {plan / 1000:.2f} s (wanted under 0.6), {plan / bare:.0f} times a bare interpreter start")


def memory() -> None:
    """The server's memory after some pages."""
    import urllib.request

    with tempfile.TemporaryDirectory() as folder:
        process = subprocess.Popen(
            [sys.executable, "-m", "wisearc", "serve", "--demo", "--data", folder, "--port", "0", "--no-browser"],
            cwd=ROOT,
            stdout=subprocess.PIPE,
            text=True,
        )
        try:
            address = re.search(r"http://\S+", process.stdout.readline())[0]
            for path in (
                "",
                f"?{QUERY}",
                f"plan/answers?{QUERY}",
                "keep/",
                "keep/P-0001/B",
                "keep/P-0001/B/print",
                "tables/",
            ) * 5:
                urllib.request.urlopen(address + path).read()
            status = Path(f"/proc/{process.pid}/status").read_text(encoding="ascii")
            resident = next(int(line.split()[1]) for line in status.splitlines() if line.startswith("VmRSS"))
            print(f"server's memory: {resident / 1000:.0f} MB (wanted under 150)")
        finally:
            process.terminate()
            process.wait()


def browser() -> None:
    """A changed word as the user sees it in Chromium: from the click until the new answers are drawn and laid out."""
    import threading

    from playwright.sync_api import sync_playwright
    from waitress import create_server

    from wisearc.web import create_app

    script = """(value) => new Promise((done) => {
        const start = performance.now();
        const watch = new MutationObserver(() => {
            if (document.querySelector('.plan').getAttribute('aria-busy') === 'false') {
                watch.disconnect(); document.body.getBoundingClientRect(); done(performance.now() - start);
            }
        });
        watch.observe(document.querySelector('.plan'), { attributes: true });
        document.querySelector(`#editor-joint input[value="${value}"]`).click();
    })"""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        server = create_server(create_app(Path(folder)), host="127.0.0.1", port=0, threads=8)
        threading.Thread(target=server.run, daemon=True).start()
        chromium = play.chromium.launch(
            executable_path="/usr/bin/chromium", headless=True, args=["--no-sandbox", "--disable-gpu"]
        )
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"http://127.0.0.1:{server.effective_port}/?{QUERY}")
        page.click("#word-joint")
        taken = []
        for value in ("tee", "lap", "butt", "edge", "outside-corner") * 4:
            page.wait_for_timeout(120)
            taken.append(page.evaluate(script, value))
        chromium.close()
        server.close()
    print(
        f"changed word in the browser: median {statistics.median(taken):.0f} ms, worst {max(taken):.0f} ms (wanted under 100)"
    )


if __name__ == "__main__":
    core()
    request()
    command()
    memory()
    browser()
