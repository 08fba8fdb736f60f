"""Two runs compared, coupons first: the values of each row, and the differences."""

from __future__ import annotations

from msgspec import Struct

from ..core import catalogue
from ..core.run.inspection import COLOUR_NAMES, FACE_NAMES
from ..services.records import Revision, RunRow
from ..services.runs.runs import get_run
from .runs import run_row


class Row(Struct, frozen=True):
    """A row of two runs: label, both values, and whether they differ."""

    label: str
    left: str
    right: str

    @property
    def differs(self) -> bool:
        """Return whether the values differ."""
        return self.left != self.right


class PicturePair(Struct, frozen=True):
    """The straightened pictures of one face in both runs: its name, and their SHA-256."""

    face: str
    left: str
    right: str


class TwoRuns(Struct, frozen=True):
    """Two runs compared."""

    left: RunRow
    right: RunRow
    rows: tuple[Row, ...]
    pictures: tuple[PicturePair, ...] = ()


def compare_runs(revision: Revision, left: int, right: int, units: str) -> TwoRuns:
    """Compare two runs of a revision.

    Args:
        revision: The revision.
        left: Number of a run.
        right: Number of the other run.
        units: Unit system.

    Raises:
        Missing: A run does not exist.
    """
    first, other = get_run(revision, left), get_run(revision, right)
    first_entries, second_entries = _list_entries(first, units), _list_entries(other, units)
    return TwoRuns(
        first,
        other,
        tuple(
            Row(label, first_entries.get(label, "–"), second_entries.get(label, "–"))
            for label in dict.fromkeys([*first_entries, *second_entries])
        ),
        _pair_pictures(first, other),
    )


def _pair_pictures(first: RunRow, other: RunRow) -> tuple[PicturePair, ...]:
    """The last straightened picture of each face that both runs have."""
    by_face = [
        {p.face: p.straightened for p in run.document.photographs if p.face and p.straightened}
        for run in (first, other)
    ]
    return tuple(
        PicturePair(name, left, right)
        for face, name in FACE_NAMES.items()
        if (left := by_face[0].get(face)) and (right := by_face[1].get(face))
    )


def _list_entries(run: RunRow, units: str) -> dict[str, str]:
    record = run.document
    row = run_row(run, units)
    flaws = ", ".join(catalogue.load_flaws()[key] for key in record.faults or ())
    entries = {
        "Outcome": "good" if run.good else "not good",
        "Face": COLOUR_NAMES[record.front.colour],
        "Root": COLOUR_NAMES[record.back.colour],
        "Flaws": flaws or "none",
        "Coupon": " ".join(row.coupon) or "no",
    }
    figures = {figure.label: figure.text for figure in row.figures}
    return entries | figures | ({"Notes": record.notes} if record.notes else {})
