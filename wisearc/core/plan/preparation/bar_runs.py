"""The seam in bar runs.

Positions, faces and moves of the bars, and the bench order from bars to the last tack. Common
practice. Pauses to check square after the first two tacks: common practice; later ones: estimate.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable

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
# More tacks than this have a line for each round: estimate, about one screen.
MAX_SINGLE_TACKS = 12


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

    Key, kind (bars, tack, true, weld, gas), text, the indices of its tacks, and their keys if
    there are several.
    """

    key: str
    kind: str
    words: Sentence
    tacks: tuple[int, ...] = ()
    each: tuple[str, ...] = ()

    @property
    def keys(self) -> tuple[str, ...]:
        """Return the keys that are ticked with it."""
        return self.each or (self.key,)

    def is_ticked(self, keys: Collection[str]) -> bool:
        """Return whether all of its keys are ticked.

        Args:
            keys: The ticked keys.
        """
        return all(key in keys for key in self.keys)


def find_square_checks(count: int) -> frozenset[int]:
    """Return after how many tacks to check square: the first two, then at every doubling.

    >>> sorted(find_square_checks(9)), sorted(find_square_checks(2)), sorted(find_square_checks(3))
    ([2, 4, 8], [], [2])
    """
    return frozenset(2**i for i in range(1, count.bit_length() + 1) if 2**i < count)


def build_bench_list(plan: Plan, runs: list[BarRun], one_by_one: bool = False) -> list[BenchLine]:
    """Return the bench list from bars or gas to the seam, in order.

    Many tacks have one line for each round between two checks.

    Args:
        plan: The plan.
        runs: The bar runs.
        one_by_one: Whether each of the first sixty tacks has its line.
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
    for first, last in _list_rounds(tacks.count, one_by_one):
        lines.append(_build_tack_line(plan, first, last))
        if last in stops:
            lines.append(
                BenchLine(
                    f"true-{last}",
                    "true",
                    Sentence("Check for square, correct it and clamp again."),
                )
            )
    if one_by_one and tacks.count > MAX_LINES:
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


def _list_rounds(count: int, one_by_one: bool = False) -> list[tuple[int, int]]:
    """Return the first and last tack of each line: one by one, or by the rounds that halve a space.

    >>> _list_rounds(3), _list_rounds(20)[-3:]
    ([(1, 1), (2, 2), (3, 3)], [(5, 8), (9, 16), (17, 20)])
    """
    if one_by_one:
        return [(n, n) for n in range(1, min(count, MAX_LINES) + 1)]
    singles = count if count <= MAX_SINGLE_TACKS else 4
    rounds = [(n, n) for n in range(1, singles + 1)]
    while rounds and rounds[-1][1] < count:
        last = rounds[-1][1]
        rounds.append((last + 1, min(2 * last, count)))
    return rounds


def _build_tack_line(plan: Plan, first: int, last: int) -> BenchLine:
    indices = tuple(plan.tacks.order[first - 1 : last])
    if first == last:
        return BenchLine(f"tack-{first}", "tack", _format_tack(plan, first, indices[0]), indices)
    places = sorted(plan.tacks.positions_mm[index] for index in indices)
    text = Sentence(
        "Tacks {a} to {b}: halve each space, from {at} to {end}, {l} long.",
        a=first,
        b=last,
        at=_format_place(plan, places[0]),
        end=_format_place(plan, places[-1]),
        l=length(plan.tacks.length_mm),
    )
    each = tuple(f"tack-{n}" for n in range(first, last + 1))
    return BenchLine(f"tack-{first}", "tack", text, indices, each)


def _format_place(plan: Plan, at_mm: float) -> Quantity:
    if plan.section.all_round:
        return Quantity(round(360 * at_mm / plan.section.length_mm), "degrees")
    return length(at_mm)


def _format_tack(plan: Plan, n: int, index: int) -> Sentence:
    at = plan.tacks.positions_mm[index]
    return Sentence(
        "Tack {n} at {at}, {l} long.",
        n=n,
        at=_format_place(plan, at),
        l=length(plan.tacks.length_mm),
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
