"""The commands for arc logs."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from .reading import parse_figure, read


def add_arc(commands: Any) -> None:
    """Add the commands for arc logs."""
    log = commands.add_parser(
        "log", help="analyse an arc log: intervals, pulses, energy and excursions from the plan"
    )
    log.add_argument(
        "file",
        metavar="FILE.csv",
        type=Path,
        help="CSV with time_s and current_a, and optionally voltage_v and gas",
    )
    log.add_argument(
        "--joint", metavar="FILE", help="joint file; report where the log leaves its plan"
    )
    log.add_argument("--shop", metavar="SHOP", help="shop file; plan with the equipment in it")
    log.add_argument(
        "--length-mm",
        metavar="L",
        help="welded length, for the heat input (default: from the joint)",
    )
    log.set_defaults(run=_log)
    reads = commands.add_parser(
        "inspect",
        aliases=["read"],
        help="inspect a run: findings, likely causes and the recommended change",
    )
    reads.add_argument("file", metavar="RUN", help="run file, or - for standard input")
    reads.add_argument(
        "--joint",
        metavar="FILE",
        help="joint file of the run (default: the joint inside the run)",
    )
    reads.add_argument("--log", metavar="FILE.csv", type=Path, help="arc log of the run")
    reads.add_argument("--shop", metavar="SHOP", help="shop file; plan with the equipment in it")
    reads.set_defaults(run=_read)


def _log(args: argparse.Namespace) -> int:
    from ..core.shop.shop import ASSUMED
    from ..services.planning.planner import plan_of_text, shop_of_text
    from ..services.runs.arc_logs import log_as_data

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    plan = plan_of_text(read(args.joint), shop) if args.joint else None
    on_progress = _print_progress if sys.stderr.isatty() else None
    data = log_as_data(args.file, plan, parse_figure("length-mm", args.length_mm), on_progress)
    json.dump(
        data,
        sys.stdout,
        ensure_ascii=False,
        indent=2,
        allow_nan=False,
    )
    sys.stdout.write("\n")
    return 0


def _read(args: argparse.Namespace) -> int:
    from ..core.shop.shop import ASSUMED
    from ..services.diagnosis.diagnosis import reading_of_text
    from ..services.planning.planner import shop_of_text

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    joint = read(args.joint) if args.joint else None
    reading_text = reading_of_text(read(args.file, "run"), joint, shop, args.log)
    json.dump(reading_text, sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
    sys.stdout.write("\n")
    return 0


def _print_progress(share: float) -> None:
    sys.stderr.write(f"Reading the log: {100 * share:3.0f} %" + ("\n" if share >= 1 else ""))
    sys.stderr.flush()
