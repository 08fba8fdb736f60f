"""Documents of the library by kind: sheet, test record, bench card, booklet and traveller."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct

from ..core.errors import InputError, UnknownName
from ..core.quantities import UNIT_SYSTEMS
from ..services.background import Background
from ..services.clock import get_now
from ..services.errors import Cancelled, StoreError
from ..services.inventory.shop import load_shop
from ..services.procedures import book
from ..services.records import Revision
from ..services.runs.arc_columns import ArcColumns
from ..services.runs.kept_files import KeptFiles
from .jobs import build_traveller
from .pages import render_page
from .pdf import load_library, write_pdf
from .photo_card import make_card
from .revisions import build_revision_document

SHEET, RECORD, CARD, BOOKLET, TRAVELLER = "sheet", "record", "card", "booklet", "traveller"
PHOTO_CARD = "photo-card"
KINDS = (SHEET, RECORD, CARD, BOOKLET, TRAVELLER, PHOTO_CARD)
PAPERS = ("a4", "letter")
MAX_IN_BOOKLET = 200
# Steps of the progress, and the usual number of pages of a sheet.
_STEPS, _PAGES_OF_ONE = 100, 3
DEFAULT_ADDRESS = "http://127.0.0.1:8765"

Watch = Callable[[int, int], bool]


class DocumentRequest(Struct, frozen=True):
    """A requested document.

    Attributes:
        kind: "sheet", "record", "card", "booklet", "traveller" or "photo-card".
        names: Procedures as "P-0001" or "P-0001/A", or the number of a job.
        units: Unit system, "mm" or "in".
        paper: "a4" or "letter". A bench card is A6.
        address: Address of the library in a browser, for the code on the page.
        order: Order of a traveller, by names of steps, or ().
    """

    kind: str
    names: tuple[str, ...]
    units: str = "mm"
    paper: str = "a4"
    address: str = DEFAULT_ADDRESS
    order: tuple[str, ...] = ()


def check_request(request: DocumentRequest) -> None:
    """Check the names of a request.

    Args:
        request: The request.

    Raises:
        UnknownName: A name is not known.
        InputError: The kind needs another number of names.
    """
    for key, value, allowed in (
        ("kind", request.kind, KINDS),
        ("paper", request.paper, PAPERS),
        ("units", request.units, UNIT_SYSTEMS),
    ):
        if value not in allowed:
            raise UnknownName(key, value, list(allowed))
    if request.kind == PHOTO_CARD:
        return
    if not request.names:
        raise InputError("procedure", None, "is missing. Example: P-0001 or P-0001/A")
    if request.kind == BOOKLET and len(request.names) > MAX_IN_BOOKLET:
        rule = f"must be at most {MAX_IN_BOOKLET} for a booklet"
        raise InputError("procedures", len(request.names), rule)
    if request.kind != BOOKLET and len(request.names) > 1:
        rule = "must be one. Several procedures make a booklet: --kind booklet"
        raise InputError("procedures", len(request.names), rule)


def make_document(request: DocumentRequest, folder: Path, watch: Watch) -> bytes:
    """Return a document of the open library as PDF.

    Args:
        request: The request.
        folder: The data folder.
        watch: Called with the finished and total steps. Returns False to cancel.

    Raises:
        InputError: The request is wrong.
        StoreError: A record cannot be read.
        NoPdf: The libraries for PDF are missing.
        Cancelled: The work was cancelled.
    """
    check_request(request)
    load_library()
    if request.kind == PHOTO_CARD:
        return make_card()
    html = (
        _render_traveller(request)
        if request.kind == TRAVELLER
        else _render_revisions(request, folder, watch)
    )

    reached = 0.0

    def report(share: float) -> None:
        nonlocal reached
        # Page numbers in the contents need a second layout. The text is a tenth of the work.
        reached = max(reached, 0.1 + 0.9 * share)
        if not watch(round(_STEPS * reached), _STEPS):
            raise Cancelled

    expected_pages = _PAGES_OF_ONE * len(request.names)
    return write_pdf(html, KeptFiles(folder).folder, report, expected_pages)


def _render_traveller(request: DocumentRequest) -> str:
    number = request.names[0]
    if not number.isascii() or not number.isdigit() or len(number) > 9:
        raise InputError("job", number, "must be the number of a job, such as 3")
    traveller = build_traveller(int(number), request.units, request.address, request.order)
    values = {name: getattr(traveller, name) for name in traveller.__struct_fields__}
    return render_page("traveller.html", paper=request.paper, **values)


def _render_revisions(request: DocumentRequest, folder: Path, watch: Watch) -> str:
    background = Background()
    files = KeptFiles(folder)
    columns = ArcColumns(folder, files, background) if request.kind == RECORD else None
    docs, skipped = [], []
    try:
        for i, name in enumerate(request.names):
            if not watch(round(0.1 * _STEPS * i / len(request.names)), _STEPS):
                raise Cancelled
            try:
                revision = find_revision(name)
                docs.append(
                    build_revision_document(
                        revision, request.units, request.address, files, columns
                    )
                )
            except StoreError as error:
                # The booklet is made without it, and names it.
                if request.kind != BOOKLET:
                    raise
                skipped.append(str(error))
    finally:
        if columns is not None:
            columns.close()
        background.close()
    if not docs:
        raise InputError("procedures", None, f"cannot be printed. {skipped[0]}")
    return _render(request, docs, skipped)


def _render(request: DocumentRequest, docs: Sequence[Any], skipped: Sequence[str]) -> str:
    shop = load_shop().name
    if request.kind == BOOKLET:
        return render_page(
            "booklet.html",
            title="Welding procedures",
            shop=shop,
            paper=request.paper,
            docs=docs,
            skipped=skipped,
            made_on=get_now()[:10],
        )
    (doc,) = docs
    title = f"{doc.view.number} {doc.view.revision.letter}, {request.kind}: {doc.title}"
    return render_page(f"{request.kind}.html", title=title, shop=shop, paper=request.paper, doc=doc)


def find_revision(name: str) -> Revision:
    """Return a revision by its name.

    Args:
        name: "P-0001" for the newest, or "P-0001/A".

    Raises:
        Missing: It does not exist.
    """
    number, _, letter = name.strip().replace(" ", "/").partition("/")
    return book.find(number, letter.upper() or None)


def name_file(request: DocumentRequest) -> str:
    """Return the usual file name of a document.

    Args:
        request: The request.
    """
    if request.kind == BOOKLET:
        return "booklet.pdf"
    if request.kind == PHOTO_CARD:
        return "card.pdf"
    if request.kind == TRAVELLER:
        return f"job-{request.names[0]}-traveller.pdf"
    revision = find_revision(request.names[0])
    return f"{revision.procedure.label}-{revision.letter}-{request.kind}.pdf"
