"""Comparison of a run with its procedure: ranges met or left, with times, and missing values."""

from __future__ import annotations

from msgspec import Struct

from ..arc_log.limits import LABELS, format_excursion, get_limits
from ..plan.plan import Plan
from .run import Excursion, Run, list_run_figures
from .verification import BANDS, Bands, Outside, build_ranges, find_outside, format_range

KEPT, LEFT, UNTOLD = "kept", "left", "not reported"
# Ranges that a log reports by other figures.
_BY_LOG = {"machine_a": "peak_a", "background_pct": "background_a"}


class Judged(Struct, frozen=True):
    """A range and its result.

    Label, kind of quantity and limits; "kept", "left" or "not told"; and the excursions or the
    figure.
    """

    key: str
    label: str
    quantity: str
    low: float | None
    high: float | None
    how: str
    spells: tuple[Excursion, ...] = ()
    figure: Outside | None = None

    def text(self, units: str) -> str:
        """Return the result: "kept", or the deviation with its time."""
        if self.spells:
            return "; ".join(
                f"{format_excursion(spell).partition(',')[0]}, "
                f"{spell.start_s:.1f} to {spell.end_s:.1f} s"
                for spell in self.spells[:3]
            ) + (f", and {len(self.spells) - 3} more" if len(self.spells) > 3 else "")
        return self.figure.text(units).partition(", allowed ")[0] if self.figure else self.how

    def ends(self, units: str) -> str:
        """Return the text of the range."""
        return format_range((self.low, self.high), self.quantity, units)


def judge_ranges(run: Run, bands: Bands, plan: Plan) -> list[Judged]:
    """Compare a run with the allowed ranges of its plan, by definition.

    The log decides at every moment if it has the figure, or else the record.

    Args:
        run: The run.
        bands: The allowed ranges.
        plan: The plan.
    """
    off = {outside.key: outside for outside in find_outside(run, bands, plan)}
    held = get_limits(plan, bands)
    judged = []
    for key, ends in {**build_ranges(plan), **bands}.items():
        displayed = _BY_LOG.get(key, key)
        if key == "current_a" and "current_a" not in held:
            continue
        label, quantity = BANDS[key]
        if run.logged and displayed in held:
            label, quantity = LABELS[displayed]
            low, high = held[displayed]
            left = tuple(excursion for excursion in run.left_band if excursion.what == displayed)
            judged.append(Judged(key, label, quantity, low, high, LEFT if left else KEPT, left))
            continue
        figure = off.get(_get_range_key(key))
        how = LEFT if figure else KEPT if _is_reported(run, key) else UNTOLD
        judged.append(Judged(key, label, quantity, ends[0], ends[1], how, figure=figure))
    return judged


def _get_range_key(band: str) -> str:
    """Return the key of a run that reports a range."""
    return next((figure.key for figure in list_run_figures() if figure.band == band), band)


def _is_reported(run: Run, band: str) -> bool:
    if band == "travel_mm_s":
        return run.travel_mm_s is not None
    key = _get_range_key(band)
    return any(figure.of(run) is not None for figure in list_run_figures() if figure.key == key)
