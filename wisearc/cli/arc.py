"""The commands for the arc: its logs."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from .reading import figure, read


def add_arc(commands: Any) -> None:
    """The commands for the arc."""
    log = commands.add_parser(
        "log", help="read an arc log: stretches, pulses, energy, where it left what was planned"
    )
    log.add_argument(
        "file", metavar="FILE.csv", type=Path, help="time_s,current_a and where known voltage_v,gas"
    )
    log.add_argument(
        "--joint", metavar="FILE", help="a joint file: say where the log left its plan"
    )
    log.add_argument("--shop", metavar="SHOP", help="a shop file; plan with what it owns")
    log.add_argument(
        "--length-mm", metavar="L", help="length welded, for the heat input (default: the joint's)"
    )
    log.set_defaults(run=_log)
    reads = commands.add_parser(
        "read", help="read a run: what it says, what may be behind it, the one thing to change"
    )
    reads.add_argument("file", metavar="RUN", help="a run file; - for standard input")
    reads.add_argument(
        "--joint",
        metavar="FILE",
        help="the joint file it was planned by (default: the joint that the run carries)",
    )
    reads.add_argument("--log", metavar="FILE.csv", type=Path, help="the arc log that goes with it")
    reads.add_argument("--shop", metavar="SHOP", help="a shop file; plan with what it owns")
    reads.set_defaults(run=_read)


def _log(args: argparse.Namespace) -> int:
    from ..core.shop.shop import ASSUMED
    from ..services.planning.planning import plan_of_text, shop_of_text
    from ..services.runs.arc_logs import log_as_data

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    plan = plan_of_text(read(args.joint), shop) if args.joint else None
    told = _told if sys.stderr.isatty() else None
    data = log_as_data(args.file, plan, figure("length-mm", args.length_mm), told)
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
    from ..services.planning.planning import shop_of_text

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    joint = read(args.joint) if args.joint else None
    said = reading_of_text(read(args.file, "run"), joint, shop, args.log)
    json.dump(said, sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
    sys.stdout.write("\n")
    return 0


def _told(share: float) -> None:
    sys.stderr.write(f"\rreading the log: {100 * share:3.0f} %" + ("\n" if share >= 1 else ""))
    sys.stderr.flush()
