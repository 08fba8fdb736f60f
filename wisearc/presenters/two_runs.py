"""Two runs laid side by side, coupons above all: what each says by the same row, and where they
differ.
"""

from __future__ import annotations

from msgspec import Struct

from ..core import catalogue
from ..core.run.inspection import COLOUR_NAMES
from ..services.records import Revision, RunRow
from ..services.runs.runs import run_of
from .runs import run_row


class Row(Struct, frozen=True):
    """A row of two runs: its label, what either says, whether that differs."""

    label: str
    left: str
    right: str

    @property
    def differs(self) -> bool:
        """Whether they say something else."""
        return self.left != self.right


class Beside(Struct, frozen=True):
    """Two runs side by side."""

    left: RunRow
    right: RunRow
    rows: tuple[Row, ...]


def compare_runs(standing: Revision, left: int, right: int, habit: str) -> Beside:
    """Two runs of a revision side by side. Raises Missing."""
    one, other = run_of(standing, left), run_of(standing, right)
    said, told = _list_entries(one, habit), _list_entries(other, habit)
    return Beside(
        one,
        other,
        tuple(
            Row(label, said.get(label, "–"), told.get(label, "–"))
            for label in dict.fromkeys([*said, *told])
        ),
    )


def _list_entries(run: RunRow, habit: str) -> dict[str, str]:
    record = run.document
    row = run_row(run, habit)
    flaws = ", ".join(catalogue.load_flaws()[key] for key in record.faults or ())
    found = {
        "Outcome": "good" if run.good else "not good",
        "Face": COLOUR_NAMES[record.front.colour],
        "Root": COLOUR_NAMES[record.back.colour],
        "Flaws": flaws or "none",
        "Coupon": " ".join(row.coupon) or "no",
    }
    figures = {told.label: told.text for told in row.figures}
    return found | figures | ({"Notes": record.notes} if record.notes else {})
