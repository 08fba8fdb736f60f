"""A job as a traveller: the order of its steps with boxes to tick and lines to sign."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from ..core.quantities import format_count
from ..presenters.jobs import JobView, build_job_view
from ..services.background import Background
from ..services.errors import NotAllowed
from ..services.inventory.shop import load_shop
from ..services.jobs.jobs import find
from ..services.jobs.order_searches import Searches
from .revisions import build_code


class TravellerRow(Struct, frozen=True):
    """A step: number, title, changes before it, procedure, and a stop or ""."""

    number: int
    title: str
    changes: Sequence[str]
    procedure: str
    stop: str


class Traveller(Struct, frozen=True):
    """The traveller of a job."""

    title: str
    summary: str
    notices: Sequence[tuple[str, str]]
    rows: Sequence[TravellerRow]
    shop: str
    address: str
    qr: str


def build_traveller(
    number: int, units: str, address: str, order: tuple[str, ...] = ()
) -> Traveller:
    """Return the traveller of a job, in its manual order or the best one.

    Args:
        number: Number of the job.
        units: Unit system.
        address: Address of the library in a browser.
        order: The order on a page, by names of seams or of their sections, or () for the saved one.

    Raises:
        Missing: The job does not exist.
        NotAllowed: The job has no seams, or cannot be planned.
    """
    row = find(number)
    searches = Searches(Background())
    try:
        view = build_job_view(row, load_shop(), searches, units)
        if order:
            view = replace(view, job=replace(view.job, order=order))
        if not view.plan:
            raise NotAllowed(view.fault or "This job has no seams yet. Add one, then print it.")
        rows = _list_rows(view)
    finally:
        searches.close()
    page = f"{address.rstrip('/')}/jobs/{number}"
    pieces = f", {format_count(view.job.quantity, 'piece')}" if view.job.quantity > 1 else ""
    return Traveller(
        row.title,
        f"Job {number}: {format_count(len(view.job.seams), 'seam')}{pieces}",
        [notice for notice in view.notices if notice[0] != "note"],
        rows,
        load_shop().name,
        page,
        build_code(page),
    )


def _list_rows(view: JobView) -> list[TravellerRow]:
    procedures = {seam.key: seam.procedure or "" for seam in view.job.seams}
    rows = []
    for i, rung in enumerate(view.rungs):
        changes = [text for _, text in rung.touched]
        if rung.wait:
            changes.append(rung.wait)
        piece = f", piece {rung.piece}" if view.job.quantity > 1 else ""
        rows.append(
            TravellerRow(
                i + 1, f"{rung.title}{piece}", changes, procedures.get(rung.seam, ""), rung.stop
            )
        )
    return rows
