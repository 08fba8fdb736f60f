"""The commands for jobs: many joints in one order."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from .reading import parse_figure, read


def add_jobs(commands: Any) -> None:
    """Add the commands for jobs."""
    job = commands.add_parser("job", help="plan a job: the sequence of its joints")
    job.add_argument("file", metavar="FILE", help="job file, or - for standard input")
    job.add_argument("--shop", metavar="SHOP", help="shop file; plan with the equipment in it")
    job.add_argument(
        "--orders",
        metavar="FILE",
        help=(
            "file of sequences, one a line, keys separated by commas: print the cost of "
            "each, or why it is not possible"
        ),
    )
    job.add_argument(
        "--data",
        metavar="DIR",
        type=Path,
        help="data folder, for seams that name a procedure in its library",
    )
    job.set_defaults(run=_run_job)

    find = commands.add_parser(
        "find-order",
        help="read figures from standard input and print better and better sequences",
    )
    find.add_argument("--seconds", default="20", help="time limit, s (default 20)")
    find.set_defaults(run=_find)


def _run_job(args: argparse.Namespace) -> int:
    from ..core.shop.shop import ASSUMED
    from ..services.jobs.job_plans import (
        find_saved_plan,
        job_of_text,
        job_plan_as_data,
        orders_data,
        plan_document,
        refuse_procedure,
    )
    from ..services.planning.planner import shop_of_text

    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    job, by_number = job_of_text(read(args.file, "job")), refuse_procedure
    store = None
    if args.data is not None:
        from ..services.maintenance.opening import open_library

        store, by_number = open_library(args.data), find_saved_plan
    try:
        if args.orders:
            for row in orders_data(job, shop, read(args.orders, "orders").splitlines(), by_number):
                print(json.dumps(row, ensure_ascii=False, allow_nan=False))
            return 0
        plan = plan_document(job, shop, by_number)
        json.dump(job_plan_as_data(plan), sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
        sys.stdout.write("\n")
        return 1 if any(c.level == "stop" for c in plan.cautions) else 0
    finally:
        if store is not None:
            store.close()


def _find(args: argparse.Namespace) -> int:
    import os

    from ..core.schema import checks
    from ..services.jobs.job_plans import search_lines

    seconds = checks.check_number(
        "--seconds", parse_figure("--seconds", args.seconds), 0.1, 600, "s"
    )
    # A search has a lower priority than requests.
    os.nice(10)
    for row in search_lines(read("-", "problem"), seconds):
        print(json.dumps(row, allow_nan=False), flush=True)
    return 0
