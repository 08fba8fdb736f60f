"""Measure the speed and size of arc logs of 10,000,000 rows.

The comparison is with general CSV readers. Plots, and a live trace in a browser, are measured too.
Run by hand:

    python benchmarks/arc_logs.py
"""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

import numpy as np

ROWS = 10_000_000
_READ = "import time,sys;a=time.perf_counter();{};print(time.perf_counter()-a)"
_ARROW = "import pyarrow.csv as c;t=c.read_csv(sys.argv[1])"
# The peak of a new process, kB. `getrusage` would give the peak of this process too.
_OURS = (
    "from pathlib import Path;from wisearc.services.runs.arc_logs import"
    " log_as_data;d=log_as_data(Path(sys.argv[1]),None,1000.0);"
    "peak=[l.split()[1] for l in open('/proc/self/status') if l.startswith('VmHWM')][0];"
    "sys.stderr.write(str(int(peak)//1024))"
)


def write_log(path: Path) -> None:
    """Write a log: 100 s of arc in every 120, pulsed, at 1 kHz."""
    import pyarrow as pa
    import pyarrow.csv as arrow

    chance, time_s = np.random.default_rng(1), np.arange(ROWS) * 0.001
    on = (time_s % 120) < 100
    current = np.where(on, np.where((time_s * 1.5) % 1 < 0.3, 110, 5.5), 0) + chance.normal(
        0, 1, ROWS
    )
    table = {
        "time_s": np.round(time_s, 3),
        "current_a": np.round(current, 1),
        "voltage_v": np.round(np.where(on, 10.5, 0) + chance.normal(0, 0.2, ROWS), 2),
        "gas": ((time_s % 120) < 110).astype(int),
    }
    arrow.write_csv(pa.table(table), str(path))


def run(code: str, path: Path) -> tuple[float, str]:
    """Return the time of Python code in a separate process, s, and its output.

    Args:
        code: The code.
        path: The log.
    """
    done = subprocess.run(
        [sys.executable, "-c", _READ.format(code), str(path)],
        capture_output=True,
        text=True,
        check=True,
        cwd=Path(__file__).resolve().parent.parent,
    )
    return float(done.stdout), done.stderr


def reading(path: Path) -> None:
    """Measure parsing and analysis, alternating with the general reader."""
    theirs, ours, weight = [], [], "0"
    run(_ARROW, path)
    for _ in range(5):
        theirs.append(run(_ARROW, path)[0])
        took, weight = run(_OURS, path)
        ours.append(took)
    print(
        f"read and analysed: {sorted(ours)[2]:.2f} s, general reader {sorted(theirs)[2]:.2f} s,"
        f" {sorted(ours)[2] / sorted(theirs)[2]:.2f} × (wanted 2); {weight} MB (wanted 300)"
    )


def drawing(path: Path, folder: Path) -> None:
    """Measure the first plot from the columns, and zooms.

    Args:
        path: The log.
        folder: The data folder.
    """
    from wisearc.core.arc_log.arc_log import analyse
    from wisearc.drawings.runs.arc_trace import draw_arc_trace
    from wisearc.formats.arc_log.arc_csv import read_arc_csv
    from wisearc.services.background import Background
    from wisearc.services.runs.arc_columns import ArcColumns
    from wisearc.services.runs.kept_files import KeptFiles

    files = KeptFiles(folder)
    began = time.perf_counter()
    sha = files.put_log(path)
    print(f"kept: {time.perf_counter() - began:.1f} s")
    background = Background()
    columns = ArcColumns(folder, files, background)
    began = time.perf_counter()
    with columns.create_build_folder() as build_folder:
        readings = read_arc_csv(path, folder=build_folder)
        columns.put(sha, build_folder, readings, analyse(readings))
    print(f"columns built: {time.perf_counter() - began:.1f} s")
    fresh, took = ArcColumns(folder, files, background), []
    for start, wide in ((None, None), (0, 1000), (4000, 100), (4321, 3), (9000, 0.05), (100, 5000)):
        began = time.perf_counter()
        values, a, b, *_ = fresh.window(sha, start, None if start is None else start + wide)
        draw_arc_trace(values, a, b, {"peak": (99.0, 121.0)}, [], [])
        took.append(1000 * (time.perf_counter() - began))
    print(
        f"first plot {took[0]:.0f} ms (wanted 1000); zooms"
        f" {', '.join(f'{t:.0f}' for t in took[1:])} ms (wanted 100)"
    )


def browser() -> None:
    """Measure a trace of 30 minutes at 50 a second, sent ten at a time.

    Memory and longest task; and the guide over a minute.
    """
    from playwright.sync_api import sync_playwright
    from werkzeug.serving import make_server

    from wisearc.services.maintenance.demo import fill_if_empty
    from wisearc.web import create_app
    from wisearc.web.gate import ADDRESSES, list_addresses

    with (
        tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder,
        sync_playwright() as play,
    ):
        app = create_app(Path(folder))
        from wisearc.web.context import get_context

        fill_if_empty(get_context(app).store)
        server = make_server("127.0.0.1", 0, app, threaded=True)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        app.config[ADDRESSES] = list_addresses(server.server_port)
        chromium = play.chromium.launch(
            executable_path="/usr/bin/chromium",
            headless=True,
            args=["--no-sandbox", "--disable-gpu", "--enable-precise-memory-info"],
        )
        page = chromium.new_page()
        page.goto(
            f"http://127.0.0.1:{server.server_port}/run/at?what=joint=outside-corner%26pulse=slow-cold%26length=380%2Bmm"
        )
        page.wait_for_timeout(1000)
        values = page.evaluate("""async () => {
              const long = [];
              new PerformanceObserver((list) => list.getEntries().
                  forEach((e) => long.push(e.duration))).observe({ entryTypes: ["longtask"] });
              const data = JSON.parse(document.getElementById("run-data").textContent);
              const trace = window.arcTrace(document.querySelector("[data-trace]"), data);
              let t = 0;
              for (let i = 0; i < 9000; i += 1) {
                trace.add(Array.from({ length: 10 }, () => { t += 0.02; return [t,
                    (t * 2) % 1 < 0.3 ? 110 : 11]; }));
                if (i % 4 === 0) { await new Promise((done) => requestAnimationFrame(done)); }
              }
              await new Promise((done) => setTimeout(done, 300));
              return { long: Math.max(0, ...long), rows: trace.count(),
                  mb: performance.memory.usedJSHeapSize / 1e6 };
            }""")
        print(
            f"live trace: {values['rows']} rows, heap {values['mb']:.0f} MB (wanted 200), longest"
            f" task {values['long']:.0f} ms (wanted 50)"
        )
        late = page.evaluate("""async () => {
              const late = [];
              const root = document.querySelector("[data-pace]");
              const data = JSON.parse(document.getElementById("run-data").textContent);
              root.addEventListener("beat", (e) => late.push(e.detail.at - e.detail.due));
              const pacer = window.arcPacer(root, data.pace);
              pacer.start(0, 380, 0);
              await new Promise((done) => setTimeout(done, 60500));
              pacer.stop();
              return late;
            }""")
        half = len(late) // 2
        drift = abs(sorted(late[half:])[half // 2] - sorted(late[:half])[half // 2])
        print(
            f"beat over a minute: {len(late)} beats, drift {drift:.1f} ms (wanted 5), latest"
            f" {max(late):.1f} ms"
        )
        chromium.close()
        server.shutdown()


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as made:
        place = Path(made)
        write_log(place / "log.csv")
        reading(place / "log.csv")
        drawing(place / "log.csv", place)
    browser()
    print(f"this process: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024} MB")
