"""A run judged against its procedure: each band kept or left, with when; what it does not tell is
said.
"""

from __future__ import annotations

from msgspec import Struct

from ..arc_log.limits import SHOWN, format_excursion, get_limits
from ..plan.plan import Plan
from .run import Excursion, Run, list_run_figures
from .verification import BANDS, Bands, Outside, build_ranges, find_outside, format_range

KEPT, LEFT, UNTOLD = "kept", "left", "not reported"
# a figure of a band that a log tells by other figures of its own
_BY_LOG = {"machine_a": "peak_a", "background_pct": "background_a"}


class Judged(Struct, frozen=True):
    """A band and how a run stands to it: its label, kind of quantity and ends; "kept", "left" or
    "not told"; what left it and when, as outside spells or a figure.
    """

    key: str
    label: str
    quantity: str
    low: float | None
    high: float | None
    how: str
    spells: tuple[Excursion, ...] = ()
    figure: Outside | None = None

    def text(self, habit: str) -> str:
        """How it stands, in words: "kept", or what it was and when."""
        if self.spells:
            return "; ".join(
                f"{format_excursion(one).partition(',')[0]}, {one.start_s:.1f} to {one.end_s:.1f} s"
                for one in self.spells[:3]
            ) + (f", and {len(self.spells) - 3} more" if len(self.spells) > 3 else "")
        return self.figure.text(habit).partition(", allowed ")[0] if self.figure else self.how

    def ends(self, habit: str) -> str:
        """What it is held within, in words."""
        return format_range((self.low, self.high), self.quantity, habit)


def judge_ranges(run: Run, bands: Bands, plan: Plan) -> list[Judged]:
    """Each band that a plan holds within, and how a run stands to it. By definition.

    A figure that a log tells is judged by the log, moment by moment; else by what was written down.
    """
    off = {one.key: one for one in find_outside(run, bands, plan)}
    held = get_limits(plan, bands)
    found = []
    for key, ends in {**build_ranges(plan), **bands}.items():
        shown = _BY_LOG.get(key, key)
        if key == "current_a" and "current_a" not in held:
            continue
        label, quantity = BANDS[key]
        if run.logged and shown in held:
            label, quantity = SHOWN[shown]
            low, high = held[shown]
            left = tuple(one for one in run.left_band if one.what == shown)
            found.append(Judged(key, label, quantity, low, high, LEFT if left else KEPT, left))
            continue
        figure = off.get(_get_range_key(key))
        how = LEFT if figure else KEPT if _is_reported(run, key) else UNTOLD
        found.append(Judged(key, label, quantity, ends[0], ends[1], how, figure=figure))
    return found


def _get_range_key(band: str) -> str:
    """The key of a run by which a band is told."""
    return next((figure.key for figure in list_run_figures() if figure.band == band), band)


def _is_reported(run: Run, band: str) -> bool:
    if band == "travel_mm_s":
        return run.travel_mm_s is not None
    key = _get_range_key(band)
    return any(figure.of(run) is not None for figure in list_run_figures() if figure.key == key)
