"""Documents as PDF, and pages during a backup: times on this machine.

    .venv/bin/python benchmarks/documents.py FOLDER OUT

FOLDER is a library from benchmarks/large_library.py, and OUT a folder for the results.
"""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

COMMAND = (sys.executable, "-m", "wisearc")
SHEETS, IN_BOOKLET = 10, 50


def run_timed(*words: str) -> float:
    """Run a command of the product and return its duration, s."""
    begun = time.perf_counter()
    subprocess.run([*COMMAND, *words], check=True, capture_output=True)
    return time.perf_counter() - begun


def measure_documents(folder: Path, out: Path) -> None:
    """Print the times of a sheet in the worker of a server and of a booklet by command."""
    from wisearc.web import create_app

    client = create_app(folder).test_client()
    for kind in ("sheet", "record", "card"):
        times = []
        for number in range(100, 100 + SHEETS):
            begun = time.perf_counter()
            answer = client.get(f"/procedures/P-{number:04}/A/{kind}.pdf")
            if answer.mimetype != "application/pdf":
                raise AssertionError(answer.get_data(as_text=True)[:300])
            times.append(time.perf_counter() - begun)
        rest = sorted(times[1:])
        print(
            f"{kind}: first {times[0]:.2f} s, then {rest[len(rest) // 2]:.2f} to {rest[-1]:.2f} s"
        )
    names = [f"P-{number:04}/A" for number in range(200, 200 + IN_BOOKLET)]
    options = ("--kind", "booklet", "--data", str(folder), "--out", str(out / "booklet.pdf"))
    print(f"booklet of {IN_BOOKLET}: {run_timed('pdf', *names, *options):.1f} s")


def measure_backup(folder: Path, out: Path) -> None:
    """Print the longest answer of pages during a backup."""
    from wisearc.web import create_app

    client = create_app(folder).test_client()
    paths = ("/procedures/", "/procedures/P-0100/A", "/procedures/?q=mast", "/jobs/")
    for path in paths:
        client.get(path)
    begun = time.perf_counter()
    work = subprocess.Popen([*COMMAND, "backup", str(out), "--data", str(folder)])
    max_s, count = 0.0, 0
    while work.poll() is None:
        sent = time.perf_counter()
        client.get(paths[count % len(paths)])
        max_s = max(max_s, time.perf_counter() - sent)
        count += 1
        time.sleep(0.05)
    duration_s = time.perf_counter() - begun
    print(f"backup: {duration_s:.0f} s, {count} pages meanwhile, longest {max_s * 1000:.0f} ms")


if __name__ == "__main__":
    measure_documents(Path(sys.argv[1]), Path(sys.argv[2]))
    measure_backup(Path(sys.argv[1]), Path(sys.argv[2]))
