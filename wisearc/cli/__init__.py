"""The command line: serve, plan, schema, and maintenance of the library."""

from __future__ import annotations

import argparse
import gc
import json
import os
import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from .. import __version__
from ..core.errors import WiseArcError
from ..services import lifeline
from .arc import add_arc
from .before_arc import add_bench
from .chart import add_chart
from .documents import add_documents
from .heat import add_heat
from .jobs import add_jobs
from .maintenance import add_care
from .photographs import add_photographs
from .practice import add_practice
from .reading import read
from .simulators import add_simulate

DEFAULT_PORT = 8765
# The number of new objects between garbage collections. The default of 700 slows the start.
GC_THRESHOLD = 10_000


def main(argv: list[str] | None = None) -> int:
    """Run a command and return its exit code: 0 done, 1 a stop caution, 2 bad input."""
    gc.set_threshold(GC_THRESHOLD)
    if lifeline.VARIABLE not in os.environ:
        return _run(argv)
    lifeline.exit_with_server()
    try:
        return _run(argv)
    except Exception:  # noqa: BLE001
        # The server needs an exit code that differs from the result of a check.
        import traceback

        traceback.print_exc()
        return lifeline.FAILED


def _run(argv: list[str] | None) -> int:
    args = _build_parser().parse_args(argv)
    try:
        with _handle_sigterm_as_interrupt():
            return int(args.run(args))
    except WiseArcError as error:
        print(f"wisearc: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        # The reader closed early (a pager, head), so no further output is possible.
        sys.stderr.close()
        return 0
    except KeyboardInterrupt:
        print("wisearc: cancelled; no changes were made", file=sys.stderr)
        return 130


@contextmanager
def _handle_sigterm_as_interrupt() -> Iterator[None]:
    """Treat a request to end like Ctrl+C, so that the command cleans up first."""
    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = signal.signal(signal.SIGTERM, signal.default_int_handler)
    try:
        yield
    finally:
        signal.signal(signal.SIGTERM, before)


def _build_parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="wisearc",
        description="Plan, weld and record TIG welds in thin stainless steel.",
    )
    parser.add_argument("--version", action="version", version=f"wisearc {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    serve = commands.add_parser("serve", help="run the web application on this machine")
    serve.add_argument(
        "--demo", action="store_true", help="fill an empty data folder with demo data"
    )
    serve.add_argument(
        "--port", type=int, default=DEFAULT_PORT, help=f"port on 127.0.0.1 (default {DEFAULT_PORT})"
    )
    serve.add_argument(
        "--data", type=Path, default=Path("data"), help="data folder (default ./data)"
    )
    serve.add_argument(
        "--address",
        default="",
        metavar="URL",
        help="address for other devices, printed on sheets, such as http://bench.local:8765",
    )
    serve.add_argument(
        "--shop-network",
        nargs="?",
        const="",
        default=None,
        metavar="ADDRESS",
        help=("also listen on the network, on all addresses or the one given, for paired devices"),
    )
    serve.add_argument("--no-browser", action="store_true", help="do not open a browser")
    serve.set_defaults(run=_serve)

    plan = commands.add_parser("plan", help="plan the joint in a file")
    plan.add_argument("file", metavar="FILE", help="joint file, or - for standard input")
    plan.add_argument("--shop", metavar="SHOP", help="shop file; plan with the equipment in it")
    plan.add_argument("--text", action="store_true", help="print text instead of JSON")
    plan.add_argument(
        "--units", choices=("mm", "in"), default="mm", help="units of --text (default mm)"
    )
    plan.set_defaults(run=_plan)

    add_bench(commands)
    add_jobs(commands)
    add_arc(commands)
    add_heat(commands)
    add_practice(commands)
    add_photographs(commands)
    add_chart(commands)
    add_simulate(commands)
    add_documents(commands)
    add_care(commands)

    show = commands.add_parser("schema", help="print the JSON Schema of a format")
    show.add_argument(
        "name",
        metavar="NAME",
        help="joint, plan, run, procedure, shop, job, job-plan, arc-log, reading or heat",
    )
    show.set_defaults(run=_print_schema)
    return parser


def _plan(args: argparse.Namespace) -> int:
    from ..core.shop.shop import ASSUMED
    from ..services.planning.planner import plan_as_data, plan_as_text, plan_of_text, shop_of_text

    text = read(args.file)
    shop = shop_of_text(read(args.shop, "shop")) if args.shop else ASSUMED
    plan = plan_of_text(text, shop)
    if args.text:
        sys.stdout.write(plan_as_text(plan, args.units))
    else:
        json.dump(plan_as_data(plan), sys.stdout, ensure_ascii=False, indent=2, allow_nan=False)
        sys.stdout.write("\n")
    return 1 if plan.stopped else 0


def _print_schema(args: argparse.Namespace) -> int:
    from ..services.planning.planner import schema_as_text

    print(schema_as_text(args.name))
    return 0


def _serve(args: argparse.Namespace) -> int:
    from ..web.serve import serve

    return serve(
        args.data,
        args.port,
        demo=args.demo,
        browser=not args.no_browser,
        address=args.address,
        network=args.shop_network,
    )
