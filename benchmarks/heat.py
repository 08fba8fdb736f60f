"""Speed and memory of the field of heat, and ratios against a general-purpose PDE package.

Run by hand. The package needs another environment:

    python3 -m venv pde && pde/bin/pip install py-pde
    .venv/bin/python benchmarks/heat.py --pde pde/bin/python

300 × 200 mm of 1.6 mm austenitic sheet, 1.5 pulses a second, to cold.
"""

from __future__ import annotations

import argparse
import json
import resource
import statistics
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from wisearc.core.conduction.findings import read_peak_c  # noqa: E402
from wisearc.core.conduction.metal import build_constant_metal, build_metal  # noqa: E402
from wisearc.core.conduction.problem import Arc, Problem, Strip  # noqa: E402
from wisearc.core.conduction.solver.field import run_field  # noqa: E402
from wisearc.core.joint.section import HeatProperties  # noqa: E402
from wisearc.core.physics.heat_in_time import PulseTrain, Sheet  # noqa: E402

SHEET_MM, WIDE_MM, THICK_MM = 300.0, 100.0, 1.6
PEAK_A, TRAVEL_MM_S, TRAIN = 105.0, 3.4, PulseTrain(1.5, 0.3, 0.1)
RHO_C = 7500 * 640e-9
CONSTANT = HeatProperties(k=0.024, rho_c=RHO_C, a=0.024 / RHO_C, liquidus_c=1450.0, c_part=500.0)
# Places whose highest rise is compared: along the seam and beside it, mm.
PROBES = ((60.0, 3.0), (60.0, 5.0), (60.0, 10.0))

# The same problem in the package, on a uniform grid; prints the time of a second of
# the weld, and the rises, as JSON.
PDE = """
import json, sys, time
import numba
import numpy as np
import pde

@numba.njit
def gauss(u):
    return np.exp(-u)

g, backend = float(sys.argv[1]), sys.argv[2]
a, rho_c, h, sigma, v = 5.0, 7500 * 640e-9, 1.6, 0.8, 3.4
watts, rate, on, back = 0.6 * 10.5 * 105.0, 1.5, 0.3, 0.1
nx, ny = round(300 / g), round(100 / g)
grid = pde.CartesianGrid([[0, 300], [0, 100]], [nx, ny])
scale = watts / (rho_c * h * 2 * np.pi * sigma**2)
source = (
    f"{scale} * (({back}) + (1 - {back}) * heaviside({on} / {rate} - "
    f"(t - floor(t * {rate}) / {rate}), 1)) "
    f"* heaviside(300 / {v} - t, 1) * gauss(((x - {v} * t)**2 + y**2) / (2 * {sigma}**2))"
)
eq = pde.PDE(
    {"c": f"{a} * laplace(c) + {source}"}, bc={"derivative": 0}, user_funcs={"gauss": gauss}
)
dt = 0.9 * g**2 / (4 * a)
probes = json.loads(sys.argv[3])
cells = [(min(nx - 1, int(x / g)), min(ny - 1, int(y / g))) for x, y in probes]

def run(seconds):
    most = np.zeros(len(cells))
    def watch(state, t):
        for i, cell in enumerate(cells):
            most[i] = max(most[i], state.data[cell])
    tracker = pde.CallbackTracker(watch, interrupts=0.1)
    begun = time.perf_counter()
    eq.solve(pde.ScalarField(grid, 0.0), t_range=seconds, dt=dt, solver="explicit",
             tracker=tracker, backend=backend)
    return time.perf_counter() - begun, most

# The first run compiles.
run(float(sys.argv[4]))
long = float(sys.argv[5])
taken, most = run(long)
print(json.dumps({"s": taken / long, "rises": most.tolist()}))
"""


def build(real: bool, grid_mm: float, **more: Any) -> Problem:
    """Return the sheet: with melting and losses, or with constant properties."""
    values: dict[str, Any] = {
        "length_mm": SHEET_MM,
        "before_mm": 0.0,
        "after_mm": 0.0,
        "closed": False,
        "inset_mm": 0.0,
        "contact_w_mm2k": 0.0,
        "cover_mm": 9.5 if real else 0.0,
        "jet_w_mm2k": 100e-6 if real else 0.0,
        "back_covered": False,
        "postflow_s": 6.0,
        "start_c": 20.0,
        "interpass_c": 150.0,
        "grid_mm": grid_mm,
        "until_c": 45.0,
        "max_after_s": 1800.0,
    }
    metal = build_metal(("austenitic",)) if real else build_constant_metal(CONSTANT)
    return Problem(
        metal=metal,
        sheet=Sheet(CONSTANT.k, RHO_C, THICK_MM, CONSTANT.liquidus_c, 10.5),
        strips=(Strip(THICK_MM, WIDE_MM, 2),),
        arc=Arc(PEAK_A, TRAIN, TRAVEL_MM_S, 10.5, 0.6),
        **{**values, **more},
    )


def median_s(act: Callable[[], object], times: int = 5) -> float:
    """Return the median time of a function, s."""
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        act()
        taken.append(time.perf_counter() - begun)
    return statistics.median(taken)


def find_reference() -> np.ndarray:
    """Return the highest rises at the places by the sum of the sources, K, in an endless sheet."""
    from tests.pool_integral import rise_k

    along = np.arange(-25.0, 2.0, 0.05)
    shape = PEAK_A, PEAK_A * TRAIN.background, TRAIN.rate_pps, TRAIN.on
    metal = CONSTANT.k, CONSTANT.rho_c, THICK_MM
    moments = (False, True)
    return np.array(
        [
            max(float(rise_k(metal, shape, TRAVEL_MM_S, (along, y), m).max()) for m in moments)
            for _, y in PROBES
        ]
    )


def compare(python: str, seconds: float) -> None:
    """Compare with the package at 0.5 mm, and print the ratio of times and both errors."""
    problem = build(False, 0.5, probes_mm=PROBES, until_c=1e9, max_after_s=0.0)
    begun = time.perf_counter()
    outcome = run_field(problem)
    own_s = time.perf_counter() - begun
    own = np.array([read_peak_c(outcome, x, y) - 20 for x, y in PROBES])
    reference = find_reference()
    print(
        f"constant properties, 0.5 mm: {own_s:.2f} s, "
        f"largest error {100 * np.abs(own / reference - 1).max():.1f} %"
    )
    for grid_mm in (0.5, 1.0):
        for backend in ("numba", "numpy"):
            if backend == "numpy" and grid_mm < 1:
                continue
            ended = subprocess.run(
                [
                    python,
                    "-c",
                    PDE,
                    str(grid_mm),
                    backend,
                    json.dumps(PROBES),
                    str(seconds / 8),
                    str(seconds),
                ],
                capture_output=True,
                text=True,
                check=False,
            )
            if ended.returncode:
                print(f"{backend}, {grid_mm:g} mm: failed: {ended.stderr.strip()[-300:]}")
                continue
            told = json.loads(ended.stdout.splitlines()[-1])
            rises = np.array(told["rises"])
            done = rises > 0.5 * reference
            error = 100 * np.abs(rises[done] / reference[done] - 1).max() if done.any() else 0
            whole = told["s"] * SHEET_MM / TRAVEL_MM_S
            print(
                f"general package, {backend}, {grid_mm:g} mm: {whole:.1f} s (largest error "
                f"{error:.1f} %), {whole / own_s:.0f} times as long"
            )


def load() -> None:
    """Measure a plan while four fields are calculated by the worker."""
    from wisearc.core.conduction.trial import Trial
    from wisearc.core.joint.data import make_joint
    from wisearc.core.plan.plan import make_plan
    from wisearc.core.shop.shop import ASSUMED
    from wisearc.services.background import Background
    from wisearc.services.heat.requests import HeatRequests

    def plan_s() -> float:
        taken = []
        for i in range(60):
            asked = make_joint(
                {
                    "joint": "outside-corner",
                    "members": [{"metal": "304L", "thickness": f"{1.2 + i / 200} mm"}] * 2,
                    "length": "380 mm",
                }
            )
            begun = time.perf_counter()
            make_plan(asked, ASSUMED)
            taken.append(time.perf_counter() - begun)
        return statistics.median(taken)

    plan = make_plan(
        make_joint(
            {
                "joint": "butt",
                "members": [{"metal": "304L", "thickness": "1.6 mm"}] * 2,
                "length": "500 mm",
            }
        ),
        ASSUMED,
    )
    quiet = plan_s()
    background = Background()
    asked = HeatRequests(background)
    threads = [
        threading.Thread(target=asked.ask_field, args=(plan, Trial(current_a=40.0 + i), False))
        for i in range(4)
    ]
    for thread in threads:
        thread.start()
    time.sleep(1.0)
    busy = plan_s()
    asked.close()
    background.close()
    print(f"a plan: {1e3 * quiet:.2f} ms alone, {busy / quiet:.2f} times with four fields")


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--pde", help="Python of an environment with py-pde")
    parser.add_argument("--seconds", type=float, default=24.0, help="part of the weld to compare")
    args = parser.parse_args()
    full = median_s(lambda: run_field(build(True, 0.5)))
    preview = median_s(
        lambda: run_field(build(True, 1.0, frames=45, length_mm=120.0, max_after_s=60.0))
    )
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"full: {full:.2f} s, preview: {preview:.2f} s, memory of the process: {peak:.0f} MB")
    load()
    if args.pde:
        compare(args.pde, args.seconds)


if __name__ == "__main__":
    main()
