"""Documents as PDF for the pages of every section."""

from __future__ import annotations

from flask import Response, request

from ..core.schema.json_types import Json
from .context import get_request_context
from .gate import format_printed_address
from .preferences import get_units

PAPERS = ("a4", "letter")


def send_document(kind: str, name: str, file_name: str, order: tuple[str, ...] = ()) -> Response:
    """Send a document.

    Args:
        kind: Kind of document.
        name: Procedure as "P-0001/A", or number of a job.
        file_name: Name of the file for the user.
        order: Order of a traveller.

    Raises:
        StoreError: It cannot be made.
    """
    paper = request.args.get("paper", PAPERS[0])
    fields: dict[str, Json] = {
        "kind": kind,
        "names": [name],
        "units": get_units(),
        "paper": paper if paper in PAPERS else PAPERS[0],
        "address": format_printed_address(""),
        "order": list(order),
    }
    data = get_request_context().documents.make(fields)
    headers = {"Content-Disposition": f'inline; filename="{file_name}"'}
    return Response(data, mimetype="application/pdf", headers=headers)
