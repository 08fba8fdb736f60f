"""The live plot of a purge: half an hour of readings at five a second in the browser.

Memory, long tasks, and the cost of an answer are measured. Run by hand:

    .venv/bin/python benchmarks/live.py [SECONDS]
"""

from __future__ import annotations

import logging
import sys
import tempfile
import threading
import time
from itertools import islice
from pathlib import Path

from playwright.sync_api import sync_playwright
from werkzeug.serving import make_server

from wisearc.core.joint.data import make_joint
from wisearc.core.physics.purge import make_purging
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.planning.planner import query_text
from wisearc.services.purge import purge_run, purge_status
from wisearc.services.purge.oxygen import readings_csv
from wisearc.simulators.oxygen_meter import Behind, Meter, simulate_readings
from wisearc.web import create_app
from wisearc.web.context import get_context
from wisearc.web.gate import ADDRESSES, list_addresses

HALF_HOUR_S = 1800.0
TUBE = {"metal": "316L", "form": "tube", "thickness": "1.2 mm", "diameter": "25 mm"}
JOINT = {"joint": "tube-butt", "members": [TUBE, TUBE], "length": "all-round"}
BEHIND = Behind(volume_l=40, flow_l_min=10, leak_l_min=0.002)
WATCH = (
    "window.long = []; new PerformanceObserver((l) => l.getEntries().forEach((e) =>"
    " window.long.push(e.duration))).observe({ type: 'longtask' }); 0"
)


def resident_mb(pid: int | str = "self") -> float:
    """Return the memory of a process."""
    return int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * 4096 / 1e6


def main() -> None:
    """Print the measurements."""
    watched_s = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        app = create_app(Path(folder))
        server = make_server("127.0.0.1", 0, app, threaded=True)
        app.config[ADDRESSES] = list_addresses(server.server_port)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        joint = make_joint(JOINT)
        plan, line = (
            make_plan(joint, ASSUMED),
            list(islice(simulate_readings(BEHIND), int((HALF_HOUR_S + watched_s + 60) * 5))),
        )
        began = time.time() - HALF_HOUR_S
        meter = Meter(
            lambda: iter([(t - time.time() + began, c) for t, c in line if t > time.time() - began])
        )
        threading.Thread(target=meter.serve, daemon=True).start()
        ask = make_purging({"shape": "told", "volume_l": 40, "flow_l_min": 10, "target_ppm": 50})
        number = purge_run.begin(
            query_text(joint), plan.title.text(), ask, meter.port, lambda: began
        )
        file = get_context(app).listeners.file(number, began)
        file.parent.mkdir()
        file.write_text(
            readings_csv([one for one in line if one[0] <= HALF_HOUR_S]), encoding="ascii"
        )
        browser = play.chromium.launch(
            executable_path="/usr/bin/chromium",
            headless=True,
            args=["--no-sandbox", "--disable-gpu", "--enable-precise-memory-info"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        answers: list[int] = []
        page.on(
            "response",
            lambda r: (
                answers.append(int(r.headers.get("content-length", 0)))
                if r.url.endswith("/live")
                else None
            ),
        )
        page.goto(f"http://127.0.0.1:{server.server_port}/set/purge/{number}")
        page.wait_for_timeout(3000)
        page.evaluate(WATCH)
        heap = page.evaluate("performance.memory.usedJSHeapSize") / 1e6
        page.wait_for_timeout(watched_s * 1000)
        after, long = (
            page.evaluate("performance.memory.usedJSHeapSize") / 1e6,
            page.evaluate("window.long"),
        )
        view = page.evaluate("document.querySelectorAll('*').length")
        print(
            f"{len(line)} readings; {len(answers)} answers, {max(answers) / 1000:.1f} kB at most on"
            " the wire"
        )
        print(
            f"script's memory {heap:.1f} MB, {after:.1f} MB after {watched_s:.0f} s; elements"
            f" {view}; long tasks over 50 ms: {len(long)} {[round(v) for v in long]}"
        )
        print(f"server and tools {resident_mb():.0f} MB")
        began_at = time.perf_counter()
        for _ in range(10):
            with app.test_request_context():
                purge_status.get_status(
                    purge_run.get_purge(number),
                    plan,
                    get_context(app).listeners,
                    get_context(app).fits,
                    "mm",
                )
        print(f"an answer takes {(time.perf_counter() - began_at) * 100:.0f} ms")
        browser.close()
        get_context(app).listeners.close()
        server.shutdown()


if __name__ == "__main__":
    main()
