"""Virtual seams: latency from torch to drawn pool, pages, time of a step, memory.

    .venv/bin/python benchmarks/practice.py [--learners 1 4] [--seconds 20] [--memory-s 60]

Ratios within one run. One learner is a page in Debian's Chromium with a torch that a script moves.
The others have separate devices: another process sends the requests of their pages. The latency is
measured in the page, from a sample of the torch to the end of the drawing that first
shows it. The times of pages are measured without a browser on this machine.
"""

from __future__ import annotations

import argparse
import http.client
import json
import logging
import os
import re
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from collections.abc import Sequence
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
PORT = 8797
SEAM = f"http://127.0.0.1:{PORT}/learn/seam?lesson=pace"
PAGES = ("/plan", "/procedures/", "/learn/")
# A script in the page: it presses, waits for the pool and travels.
TORCH_SCRIPT = """() => {
  const sheet = document.querySelector('[data-sheet]');
  const box = sheet.getBoundingClientRect();
  const scale = Math.min((box.width - 8) / 108, 16);
  const x = (mm) => box.left + (box.width - 100 * scale) / 2 + mm * scale;
  const y = box.top + box.height / 2;
  const send = (kind, at) => sheet.dispatchEvent(new PointerEvent(kind, {
    pointerId: 1, pointerType: 'mouse', clientX: at, clientY: y, bubbles: true, button: 0 }));
  sheet.setPointerCapture = () => {};
  let started = performance.now();
  send('pointermove', x(1.8)); send('pointerdown', x(1.8));
  window.handTimer = setInterval(() => {
    const t = (performance.now() - started) / 1000;
    send('pointermove', x(1.8 + Math.max(0, t - 1.3) * 3.4));
  }, 8);
}"""


def find_share(values: Sequence[float], share: float) -> float:
    """Return a quantile."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))]


def open_seam(browser: Browser) -> Page:
    """Open a virtual seam that waits for its hand."""
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.goto(SEAM)
    for _ in range(200):
        if "wait for the pool" in page.inner_text("[data-hint]"):
            return page
        page.wait_for_timeout(100)
    raise RuntimeError("the seam is not ready")


def time_pages(seconds: float, times: dict[str, list[float]]) -> None:
    """Request pages one after the other for a time, and note their times in ms."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        for path in PAGES:
            started = time.perf_counter()
            with urllib.request.urlopen(f"http://127.0.0.1:{PORT}{path}") as answer:
                answer.read()
            times.setdefault(path, []).append(1000 * (time.perf_counter() - started))
            time.sleep(0.1)


def learn_elsewhere(learners: int, seconds: float) -> None:
    """Send what the pages of some learners send, each forty times a second."""
    threads = [
        threading.Thread(target=_learn_once, args=(n, seconds), daemon=True)
        for n in range(learners)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def _learn_once(number: int, seconds: float) -> None:
    connection = http.client.HTTPConnection("127.0.0.1", PORT)
    connection.request("GET", "/learn/seam?lesson=pace")
    answer = connection.getresponse()
    cookies = "; ".join(c.partition(";")[0] for c in answer.headers.get_all("Set-Cookie") or [])
    match = re.search(r'name="csrf_token" value="([^"]+)"', answer.read().decode())
    head = {"Cookie": cookies, "X-CSRFToken": match[1] if match else ""}
    head["Content-Type"] = "application/json"

    def post(path: str, body: object) -> None:
        connection.request("POST", path, json.dumps(body), head)
        connection.getresponse().read()

    key = f"{number:032d}"
    post("/learn/seam/open?lesson=pace", {"seam": key})
    began = time.monotonic()
    sent = 0.0
    while (now := time.monotonic() - began) < seconds:
        place = 1.8 + max(0.0, now - 1.3) * 3.4
        rows = [[sent + (now - sent) * part, place, 0.0, 54.8] for part in (0.33, 0.66, 1.0)]
        post("/learn/seam/step", {"seam": key, "samples": rows})
        sent = now
        time.sleep(max(0.0, 0.025 - (time.monotonic() - began - now)))


def start_others(learners: int, seconds: float) -> subprocess.Popen[bytes]:
    """Start the process of the learners with separate devices."""
    command = [sys.executable, __file__, "--elsewhere", str(learners), "--seconds", str(seconds)]
    return subprocess.Popen(command)


def measure_latency(browser: Browser, learners: int, seconds: float) -> None:
    """Print the latency of one learner while others weld too."""
    page = open_seam(browser)
    others = start_others(learners - 1, seconds + 2)
    page.wait_for_timeout(2000)
    page.evaluate(TORCH_SCRIPT)
    page.wait_for_timeout(1000 * seconds)
    timings = page.evaluate("document.querySelector('[data-seam]').arcTimings()")
    print(
        f"{learners} learner{'s' if learners > 1 else ''}: {len(timings)} samples,"
        f" median {statistics.median(timings):.0f} ms, p95 {find_share(timings, 0.95):.0f} ms,"
        f" p99 {find_share(timings, 0.99):.0f} ms"
    )
    page.context.close()
    others.wait()


def read_cpu_s(server: int) -> tuple[float, float]:
    """Return the processor time of the server and of its process of virtual seams, s."""
    own = _read_stat_s(Path(f"/proc/{server}/stat"))
    children = Path(f"/proc/{server}/task/{server}/children").read_text(encoding="ascii").split()
    for task in Path(f"/proc/{server}/task").iterdir():
        children += (task / "children").read_text(encoding="ascii").split()
    seams = sum(
        _read_stat_s(Path(f"/proc/{child}/stat"))
        for child in set(children)
        if b"practice" in Path(f"/proc/{child}/cmdline").read_bytes()
    )
    return own, seams


def _read_stat_s(path: Path) -> float:
    fields = path.read_text(encoding="ascii").rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def measure_load(server: int, learners: int, seconds: float) -> None:
    """Print the processor time that learners take of the server and of the process."""
    others = start_others(learners, seconds + 2)
    time.sleep(2)
    before = read_cpu_s(server)
    time.sleep(seconds)
    own, seams = (b - a for a, b in zip(before, read_cpu_s(server), strict=True))
    print(
        f"{learners} learners: server {100 * own / seconds:.0f} %, seams"
        f" {100 * seams / seconds:.0f} % of one processor"
    )
    others.wait()


def measure_pages(learners: int, seconds: float) -> None:
    """Print the times of pages without learners and with them, alternately."""
    quiet: dict[str, list[float]] = {}
    busy: dict[str, list[float]] = {}
    for _ in range(2):
        time_pages(seconds / 2, quiet)
        others = start_others(learners, seconds / 2 + 3)
        time.sleep(2)
        time_pages(seconds / 2, busy)
        others.wait()
    for path in PAGES:
        before, now = statistics.median(quiet[path]), statistics.median(busy[path])
        print(f"{learners} learners, {path}: {before:.1f} → {now:.1f} ms, × {now / before:.2f}")


def measure_steps(seconds: float) -> None:
    """Print the time of a step, and the memory of the process at its start and end."""
    sys.path.insert(0, str(ROOT))
    from tests.practised import lesson_piece, tremble
    from wisearc.core.practice.simulated_welder import NO_SLIP, simulate_weld
    from wisearc.core.practice.virtual_seam import VirtualSeam

    track = simulate_weld(lesson_piece("rod", 100.0), NO_SLIP, tremble(1)).track
    rows, times, memory = track.samples, list[float](), list[int]()
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        seam = VirtualSeam(lesson_piece("rod", 100.0))
        for row in rows:
            started = time.perf_counter()
            seam.advance(row[None])
            times.append(1000 * (time.perf_counter() - started))
        status = Path("/proc/self/status").read_text(encoding="ascii")
        memory.append(int(status.split("VmRSS:")[1].split()[0]) // 1024)
    print(
        f"step of a 100 mm piece: median {statistics.median(times):.2f} ms, p99"
        f" {find_share(times, 0.99):.2f} ms, of 3 ms; memory {memory[0]} → {memory[-1]} MB"
        f" over {len(memory)} seams"
    )


def main() -> None:
    """Measure."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--learners", type=int, nargs="+", default=[1, 4])
    parser.add_argument("--seconds", type=float, default=20.0)
    parser.add_argument("--memory-s", type=float, default=60.0)
    parser.add_argument("--elsewhere", type=int, help=argparse.SUPPRESS)
    args = parser.parse_args()
    if args.elsewhere is not None:
        learn_elsewhere(args.elsewhere, args.seconds)
        return
    logging.disable(logging.INFO)
    measure_steps(args.memory_s)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        command = [sys.executable, "-m", "wisearc", "serve", "--demo", "--data", folder]
        command += ["--port", str(PORT), "--no-browser"]
        server = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.DEVNULL)
        try:
            for _ in range(300):
                try:
                    urllib.request.urlopen(f"http://127.0.0.1:{PORT}/learn/").read()
                    break
                except OSError:
                    time.sleep(0.2)
            browser = playwright.chromium.launch(
                executable_path="/usr/bin/chromium-headless-shell",
                args=["--no-sandbox", "--disable-gpu"],
            )
            for learners in args.learners:
                measure_latency(browser, learners, args.seconds)
            browser.close()
            for learners in args.learners:
                measure_pages(learners, args.seconds)
                measure_load(server.pid, learners, args.seconds)
        finally:
            server.terminate()
            server.wait()
    print(json.dumps({"done": True}))


if __name__ == "__main__":
    main()
