"""The seam in bar runs.

Positions, faces and moves of the bars, and the bench order from bars to the last tack. Common
practice. Pauses to check square after the first two tacks: common practice; later ones: estimate.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from msgspec import Struct

from ... import catalogue
from ...quantities import Quantity, format_count, length
from ...reasons import Sentence
from ...shop.shop import Bar
from ..plan import Plan
from .weld_spans import list_weld_spans

# The faces with a bar, by the shape of the section.
_BAR_FACES = {
    "corner": ("on the face of one member", "on the face of the other"),
    "edge": ("on one face, close under the edge", "on the other face"),
    "butt": ("at the root, under the seam",),
}
_NEAR = ("on the near face, one side", "on the near face, other side")
_BEHIND = ("behind the root",)
# A metal that melts below the steel.
_NOT_UNDER = ("at the back, beside the seam and never under the root",)
MAX_LINES = 60


class BarRun(Struct, frozen=True):
    """A placement of the bars: start and end on the seam, mm, and the number of bars."""

    start_mm: float
    end_mm: float
    bars: int


def list_bar_faces(plan: Plan) -> tuple[str, ...]:
    """Return the faces with a bar at the same time, or none without bars."""
    if not plan.back.barred:
        return ()
    bar_faces = _BAR_FACES.get(plan.section.shape, _BEHIND)
    cover = catalogue.back_covers().get(plan.back.cover)
    if cover is not None and cover.has("melts") and plan.section.shape not in ("corner", "edge"):
        bar_faces = _NOT_UNDER
    near = _NEAR if plan.section.shape == "butt" and plan.back.bar_most_mm is not None else ()
    return (*bar_faces, *near)


def split_by_bars(
    seam_mm: float, at_once: int, bars: Iterable[Bar] | None, usual_mm: float
) -> list[BarRun]:
    """Split the seam into runs, longest sets of equal bars in stock first, then moved on.

    With less than one set, a bar of the usual length is assumed.

    Args:
        seam_mm: Length of the seam, mm.
        at_once: Number of bars at a position.
        bars: The bars of the metal in stock, or None if unknown.
        usual_mm: Usual length of a bar, mm.

    >>> [(r.start_mm, r.end_mm, r.bars) for r in split_by_bars(380, 2, None, 100)]
    [(0.0, 100.0, 2), (100.0, 200.0, 2), (200.0, 300.0, 2), (300.0, 380, 2)]
    """
    if at_once < 1 or seam_mm <= 0:
        return []
    sets = sorted(
        (bar.length_mm for bar in bars or () for _ in range(int(bar.count) // at_once)),
        reverse=True,
    ) or [usual_mm]
    covered = sum(sets, 0.0)
    count = math.ceil(seam_mm / covered - 1e-9)
    return [
        BarRun(
            i * covered,
            min(seam_mm, (i + 1) * covered),
            at_once * _count_bar_sets(sets, min(seam_mm, (i + 1) * covered) - i * covered),
        )
        for i in range(count)
    ]


def _count_bar_sets(row: list[float], long: float) -> int:
    """Return the number of sets in a row for a length."""
    covered, count = 0.0, 0
    for bar in row:
        if covered >= long - 1e-9:
            break
        covered += bar
        count += 1
    return count


class BenchLine(Struct, frozen=True):
    """A bench line.

    Key, kind (bars, tack, true, weld, gas), text, and the index of the tack or None.
    """

    key: str
    kind: str
    words: Sentence
    tack: int | None = None


def find_square_checks(count: int) -> frozenset[int]:
    """Return after how many tacks to check square: the first two, then at every doubling.

    >>> sorted(find_square_checks(9)), sorted(find_square_checks(2)), sorted(find_square_checks(3))
    ([2, 4, 8], [], [2])
    """
    return frozenset(2**i for i in range(1, count.bit_length() + 1) if 2**i < count)


def build_bench_list(plan: Plan, runs: list[BarRun]) -> list[BenchLine]:
    """Return the bench list from bars or gas to the seam, in order.

    Only the first sixty tacks have a line.

    Args:
        plan: The plan.
        runs: The bar runs.
    """
    tacks, lines = plan.tacks, list[BenchLine]()
    if plan.back.purged:
        lines.append(
            BenchLine(
                "gas-on",
                "gas",
                Sentence("Start the purge and reach its target before the first tack."),
            )
        )
    if runs:
        lines.append(
            BenchLine(
                "bars-on",
                "bars",
                Sentence(
                    "Clamp the bars: {where}, {d} from the seam.",
                    where="; ".join(list_bar_faces(plan)),
                    d=length(plan.back.bar_from_seam_mm),
                ),
            )
        )
    stops = find_square_checks(tacks.count)
    for n, index in enumerate(tacks.order[:MAX_LINES], 1):
        lines.append(BenchLine(f"tack-{n}", "tack", _format_tack(plan, n, index), index))
        if n in stops:
            lines.append(
                BenchLine(
                    f"true-{n}", "true", Sentence("Check for square, correct it and clamp again.")
                )
            )
    if tacks.count > MAX_LINES:
        more = Sentence(
            "Continue: halve the widest space each time, {n} more.",
            n=format_count(tacks.count - MAX_LINES, "tack"),
        )
        lines.append(BenchLine("tacks-more", "tack", more))
    lines.append(
        BenchLine(
            "look",
            "true",
            Sentence("Check every tack. Grind out a cracked one and feather the rest."),
        )
    )
    return [*lines, *_build_seam_lines(plan, runs)]


def _format_tack(plan: Plan, n: int, index: int) -> Sentence:
    at = plan.tacks.positions_mm[index]
    if plan.section.all_round:
        return Sentence(
            "Tack {n} at {turn}, {l} long.",
            n=n,
            turn=Quantity(round(360 * at / plan.section.length_mm), "degrees"),
            l=length(plan.tacks.length_mm),
        )
    return Sentence(
        "Tack {n} at {at}, {l} long.", n=n, at=length(at), l=length(plan.tacks.length_mm)
    )


def _build_seam_lines(plan: Plan, runs: list[BarRun]) -> list[BenchLine]:
    lines = []
    spans = list_weld_spans(plan, [(run.start_mm, run.end_mm) for run in runs])
    for i, span in enumerate(spans[:MAX_LINES], 1):
        if i > 1 and runs:
            lines.append(
                BenchLine(
                    f"bars-{i}",
                    "bars",
                    Sentence(
                        (
                            "After the red heat and the gas have stopped, move the bars from "
                            "{a} to {b} on every face."
                        ),
                        a=length(span.start_mm),
                        b=length(span.end_mm),
                    ),
                )
            )
        lines.append(BenchLine(f"weld-{i}", "weld", span.text))
    if len(spans) > MAX_LINES:
        lines.append(
            BenchLine(
                "weld-more",
                "weld",
                Sentence(
                    "Continue along the seam, {n} more.",
                    n=format_count(len(spans) - MAX_LINES, "run"),
                ),
            )
        )
    return lines
