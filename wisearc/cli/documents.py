"""The command for documents as PDF."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any


def add_documents(commands: Any) -> None:
    """Add the command for documents."""
    pdf = commands.add_parser("pdf", help="make a document of the library as PDF")
    pdf.add_argument(
        "names",
        metavar="PROCEDURE",
        nargs="*",
        help="procedure such as P-0001 or P-0001/A, several for a booklet, or the number of a job",
    )
    pdf.add_argument(
        "--kind",
        default="sheet",
        metavar="KIND",
        help="sheet (default), record, card, booklet or traveller",
    )
    pdf.add_argument("--out", metavar="FILE", type=Path, help="output file (default: by its name)")
    pdf.add_argument("--paper", default="a4", metavar="PAPER", help="a4 (default) or letter")
    pdf.add_argument("--units", default="mm", metavar="UNITS", help="mm (default) or in")
    pdf.add_argument(
        "--order", default="", metavar="KEYS", help="order of a traveller, keys separated by commas"
    )
    pdf.add_argument(
        "--address",
        default="",
        metavar="URL",
        help="address of Wise Arc for the code on the page (default http://127.0.0.1:8765)",
    )
    pdf.add_argument("--data", type=Path, default=Path("data"), help="data folder (default ./data)")
    pdf.add_argument("--worker", action="store_true", help=argparse.SUPPRESS)
    pdf.set_defaults(run=_run_pdf)


def _report(done: int, of: int) -> bool:
    if of > 1:
        print(f"{done} of {of}", file=sys.stderr, flush=True)
    return True


def _run_pdf(args: argparse.Namespace) -> int:
    from ..documents.make import DEFAULT_ADDRESS, DocumentRequest, make_document, name_file
    from ..services.maintenance.opening import open_library
    from .output import write_output

    if args.worker:
        from ..documents.worker import serve_requests

        serve_requests(args.data, sys.stdin, sys.stdout)
        return 0
    request = DocumentRequest(
        args.kind,
        tuple(args.names),
        args.units,
        args.paper,
        args.address or DEFAULT_ADDRESS,
        tuple(key for key in args.order.split(",") if key),
    )

    store = open_library(args.data)
    try:
        data = make_document(request, args.data, _report)
        out = args.out or Path(name_file(request))
    finally:
        store.close()
    write_output(out, data)
    print(f"{out} was written")
    return 0
