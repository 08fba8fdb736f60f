"""The command for the field of heat."""

from __future__ import annotations

import argparse
import json
import sys
import time
from pathlib import Path
from typing import Any

from .reading import parse_figure, read

# Progress is shown from this time on, s.
_QUIET_S = 0.5


def add_heat(commands: Any) -> None:
    """Add the command for the field of heat."""
    heat = commands.add_parser(
        "heat", help="calculate the heat of a joint in time: pool, tint, burn-through and wait"
    )
    heat.add_argument("file", metavar="FILE", help="joint file, or - for standard input")
    heat.add_argument("--shop", metavar="SHOP", help="shop file; plan with the equipment in it")
    heat.add_argument(
        "--constant",
        action="store_true",
        help="constant properties, no losses and no edges, to compare with the closed form",
    )
    heat.add_argument("--grid-mm", metavar="G", help="finest grid, 0.25 to 2 mm (default: 0.5)")
    heat.add_argument(
        "--width-mm", metavar="W", help="sheet on each side of the seam (default: from the joint)"
    )
    heat.add_argument(
        "--probe",
        metavar="X,Y",
        action="append",
        default=[],
        help="record a place: along the seam from its start, and across it, in mm. Repeatable",
    )
    heat.add_argument(
        "--csv", metavar="FILE", type=Path, help="write the history of the probes to this file"
    )
    heat.add_argument("--worker", action="store_true", help=argparse.SUPPRESS)
    heat.set_defaults(run=_run_heat)


def _parse_probe(text: str) -> tuple[float, float]:
    from ..core.errors import InputError

    parts = text.split(",")
    try:
        x, y = (float(part) for part in parts)
    except ValueError:
        raise InputError(
            "--probe", text, "must be two numbers in mm with a comma, such as 100,5"
        ) from None
    if not (abs(x) < 1e5 and abs(y) < 1e5):
        raise InputError("--probe", text, "must be two numbers below 100000 mm")
    return x, y


def _run_heat(args: argparse.Namespace) -> int:
    from ..core.conduction.seam import build_problem
    from ..core.conduction.trial import FULL_GRID_MM, NO_TRIAL, Trial
    from ..core.errors import InputError
    from ..core.shop.shop import ASSUMED
    from ..services.heat.fields import calculate_field
    from ..services.planning.planner import plan_of_text, shop_of_text

    if args.worker:
        return _serve_pages()
    probes = tuple(_parse_probe(text) for text in args.probe)
    if args.csv is not None and not probes:
        raise InputError("--csv", str(args.csv), "needs at least one --probe")
    grid = parse_figure("grid-mm", args.grid_mm)
    width = parse_figure("width-mm", args.width_mm)
    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    plan = plan_of_text(read(args.file), shop)
    trial, grid_mm = Trial(width_mm=width), FULL_GRID_MM if grid is None else grid
    problem = build_problem(plan, grid_mm, trial, args.constant, probes_mm=probes)
    progress = _Progress() if sys.stderr.isatty() else None
    compared = trial == NO_TRIAL and not args.constant
    field = calculate_field(plan, problem, progress, compared)
    if args.csv is not None:
        try:
            args.csv.write_text(field.probes_csv, encoding="utf-8", newline="")
        except OSError as error:
            raise InputError(
                "--csv",
                str(args.csv),
                f"cannot be written ({error.strerror}). Choose another place",
            ) from error
    json.dump(field.data, sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
    sys.stdout.write("\n")
    return 0


def _serve_pages() -> int:
    """Answer the requests of the pages on standard input."""
    from ..presenters.heat import build_texts, describe_field
    from ..services.heat.worker import serve_requests

    serve_requests(
        lambda plan, field: build_texts(
            describe_field(plan, field.outcome, field.answers), field.differences
        )
    )
    return 0


class _Progress:
    """Progress on standard error, from half a second on."""

    def __init__(self) -> None:
        self.started = time.monotonic()

    def __call__(self, share: float) -> None:
        """Show a share, 0–1."""
        if time.monotonic() - self.started < _QUIET_S:
            return
        sys.stderr.write(f"\rCalculating: {100 * share:3.0f} %" + ("\n" if share >= 1 else ""))
        sys.stderr.flush()
