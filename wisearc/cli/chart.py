"""The command for the starting chart."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any


def add_chart(commands: Any) -> None:
    """Add the command for the starting chart."""
    chart = commands.add_parser(
        "chart", help="make the starting chart: thickness and joint with the figures of the shop"
    )
    chart.add_argument("--metal", default="304L", metavar="METAL", help="metal (default 304L)")
    chart.add_argument(
        "--units", choices=("mm", "in"), default="mm", help="units of the chart (default mm)"
    )
    chart.add_argument(
        "--gauge",
        choices=("stainless", "carbon"),
        default="",
        help="gauge of the rows (default with --units in: that of the metal)",
    )
    chart.add_argument(
        "--out",
        metavar="FILE",
        type=Path,
        help="output file ending in .pdf or .csv (default: CSV on standard output)",
    )
    chart.add_argument("--paper", choices=("a4", "letter"), default="a4", help="paper of the PDF")
    chart.add_argument(
        "--data",
        type=Path,
        metavar="FOLDER",
        help="data folder of the shop (default: usual equipment)",
    )
    chart.set_defaults(run=_run_chart)


def _run_chart(args: argparse.Namespace) -> int:
    from ..core.errors import InputError
    from ..core.shop.shop import ASSUMED
    from ..presenters.starting_chart import describe_chart, write_chart_csv, write_chart_pdf
    from ..services.inventory.shop import load_shop
    from ..services.planning.approaches import load_preferences
    from ..services.planning.starting_chart import USUAL, build_chart
    from .output import write_output

    kind = args.out.suffix.lower() if args.out else ".csv"
    if kind not in (".pdf", ".csv"):
        raise InputError("--out", str(args.out), "must end in .pdf or .csv")
    shop, preferences, store = ASSUMED, USUAL, None
    if args.data is not None:
        from ..services.maintenance.opening import open_library

        store = open_library(args.data)
        shop, preferences = load_shop(), load_preferences()
    try:
        chart = build_chart(args.metal, args.units, args.gauge, shop, preferences)
    finally:
        if store is not None:
            store.close()
    text = describe_chart(chart)
    if args.out is None:
        sys.stdout.write(write_chart_csv(text))
        return 0
    content = (
        write_chart_pdf(text, args.paper)
        if kind == ".pdf"
        else write_chart_csv(text).encode("utf-8")
    )
    write_output(args.out, content)
    return 0
