"""A revision as a document: its page view, its specification, its test record and its files."""

from __future__ import annotations

import base64
import time
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from ..core.joint.words import convert_title
from ..core.run.inspection import COLOUR_NAMES
from ..core.run.run import Run
from ..drawings.canvas import Drawing
from ..presenters.iso_headings import HeadingGroup, list_heading_groups
from ..presenters.photograph import list_measured_photographs
from ..presenters.procedure_page import RecordView, draw_for_paper, list_photographs, record
from ..presenters.qr_code import draw_qr_code
from ..presenters.runs import RunView, run_row
from ..presenters.signing import SigningView, build_signing_view
from ..services.errors import Preparing, StoreError
from ..services.inventory.shop import load_shop
from ..services.procedures.book import list_photographed_runs, list_recorded_evidence
from ..services.procedures.states import STATUS_NAMES
from ..services.records import Revision
from ..services.runs.arc_columns import ArcColumns
from ..services.runs.kept_files import PHOTOGRAPH, KeptFiles

# Estimate: a page of photographs. The others stay in the record.
MAX_PHOTOGRAPHS = 6
# A log of an hour is read in less.
MAX_LOG_WAIT_S = 60.0


class PrintedPhotograph(Struct, frozen=True):
    """A photograph of a document: caption, and the address of its file or "" if it is missing."""

    caption: str
    address: str


class RangeRow(Struct, frozen=True):
    """An allowed range of a run: label, limits, result."""

    label: str
    limits: str
    result: str


class PrintedRun(Struct, frozen=True):
    """A run of a test record as text, with its arc log as a drawing or why it has none."""

    heading: str
    result: str
    figures: Sequence[tuple[str, str]]
    ranges: Sequence[RangeRow]
    coupon: Sequence[str]
    notes: str
    trace: Drawing | None
    trace_missing: str


class RevisionDocument(Struct, frozen=True):
    """A revision for every document of it."""

    view: RecordView
    signing: SigningView
    groups: Sequence[HeadingGroup]
    drawings: Sequence[tuple[str, Drawing]]
    photographs: Sequence[PrintedPhotograph]
    straightened: Sequence[PrintedPhotograph]
    left_out: int
    runs: Sequence[PrintedRun]
    shop: str
    address: str

    @property
    def key(self) -> str:
        """Return its anchor in a booklet."""
        return f"{self.view.number}-{self.view.revision.letter}"

    @property
    def name(self) -> str:
        """Return its name in the margin of each page."""
        return f"{self.view.number}, revision {self.view.revision.letter}: {self.title}"

    @property
    def title(self) -> str:
        """Return the title of the joint."""
        return convert_title(self.view.revision.title, self.view.habit)

    @property
    def state(self) -> str:
        """Return the state, with the date of verification."""
        revision = self.view.revision
        if revision.removed_at:
            return f"retired {revision.removed_at[:10]}"
        proved = f" {revision.proved_at[:10]}" if revision.proved_at else ""
        return f"{STATUS_NAMES[revision.status]}{proved}"

    @property
    def qr(self) -> str:
        """Return the code with the address of the record, as a data address."""
        return build_code(self.address)


def build_code(address: str) -> str:
    """Return the code of an address as the data address of an image.

    Args:
        address: The address.
    """
    text = base64.b64encode(draw_qr_code(address).encode()).decode()
    return f"data:image/svg+xml;base64,{text}"


def build_revision_document(
    revision: Revision, units: str, address: str, files: KeptFiles, columns: ArcColumns | None
) -> RevisionDocument:
    """Return a revision for its documents.

    Args:
        revision: The revision.
        units: Unit system.
        address: Address of the library in a browser.
        files: The files of runs.
        columns: Columns of arc logs for the test record, or None without it.

    Raises:
        StoreError: The revision cannot be read.
    """
    view, shop = record(revision, units), load_shop().name
    photographs = [
        PrintedPhotograph(
            f"{photograph.run.made_on}, {photograph.run.document.who}, {photograph.file}",
            _find_address(files, photograph.sha256),
        )
        for photograph in list_photographs(revision)
    ]
    straightened = [
        PrintedPhotograph(
            f"{run.made_on}, {run.document.who}, {photograph.face}: {photograph.summary}",
            _find_address(files, photograph.sha256),
        )
        for run in list_photographed_runs(revision)
        for photograph in list_measured_photographs(run.document, units)
    ]
    label = f"{view.number}/{revision.letter}"
    return RevisionDocument(
        view,
        build_signing_view(revision),
        list_heading_groups(view, shop),
        draw_for_paper(view),
        photographs[:MAX_PHOTOGRAPHS],
        straightened[:MAX_PHOTOGRAPHS],
        max(0, len(photographs) - MAX_PHOTOGRAPHS),
        [] if columns is None else _list_runs(view, columns),
        shop,
        f"{address.rstrip('/')}/procedures/{label}",
    )


def _find_address(files: KeptFiles, sha256: str) -> str:
    try:
        return Path(files.path(sha256, PHOTOGRAPH)).resolve().as_uri()
    except StoreError:
        return ""


def _list_runs(view: RecordView, columns: ArcColumns) -> list[PrintedRun]:
    return [
        _build_run(run_row(run, view.habit, view.plan, view.revision.bands), view, columns)
        for run in list_recorded_evidence(view.revision)
    ]


def _build_run(row: RunView, view: RecordView, columns: ArcColumns) -> PrintedRun:
    run = row.record
    trace, missing = _draw_trace(run, view, columns)
    verified = ": verified this revision" if row.run.id == view.revision.verifying_run else ""
    machine = f", {run.machine}" if run.machine else ""
    faces = f"Face {COLOUR_NAMES[run.front.colour]}, root {COLOUR_NAMES[run.back.colour]}."
    return PrintedRun(
        f"Run of {run.when}, {run.who}{machine}{verified}",
        faces,
        [(figure.label, figure.text) for figure in row.figures],
        [
            RangeRow(judged.label, judged.ends(view.habit), judged.text(view.habit))
            for judged in row.judged
        ],
        row.coupon,
        run.notes,
        trace,
        missing,
    )


def _draw_trace(run: Run, view: RecordView, columns: ArcColumns) -> tuple[Drawing | None, str]:
    if run.arc_log is None:
        return None, ""
    until = time.monotonic() + MAX_LOG_WAIT_S
    while True:
        try:
            drawing, *_ = columns.drawn(
                run.arc_log.sha256, None, None, view.plan, view.revision.bands, palette="paper"
            )
            return drawing, ""
        except Preparing:
            if time.monotonic() > until:
                return None, "The arc log takes long to read. Make this document again later."
        except StoreError as error:
            return None, f"The arc log of this run cannot be drawn: {error}"
