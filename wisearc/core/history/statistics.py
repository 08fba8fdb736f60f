"""What a shop's record says: which faults came up, on what, by which change they were cured;
whether a machine or a hand drifts from itself.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from itertools import pairwise
from statistics import fmean, median

from msgspec import Struct

from .families import format_family
from .lessons import LearntRun

# Shewhart's constant for ranges of two: the mean moving range is 1.128 standard deviations.
# Published, from memory
D2 = 1.128
LIMIT_SD = 3.0
# what is set to whole amps is no nearer than this, %: estimate
MIN_SD_PCT = 0.5
# so many in a row on one side of the middle are no chance: the Western Electric rules, from memory
RUN_OF = 8
# fewer say nothing of what is usual
MIN_POINTS = 8
# a weakness shows in so many runs, and so large a share of the last: estimates
WEAK_RUNS, WEAK_SHARE, WEAK_OF = 2, 0.08, 60


class Cure(Struct, frozen=True):
    """A change that was taken for a fault: how often, and how often the fault did not come
    again.
    """

    code: str
    cured: int
    tried: int


class FaultLine(Struct, frozen=True):
    """A fault in the record: in how many runs, of how many; on which joints, the most first; what
    cured it.
    """

    fault: str
    runs: int
    of: int
    on: tuple[tuple[str, int, int], ...]
    cures: tuple[Cure, ...]


class Point(Struct, frozen=True):
    """A run on a control chart: its number, label, day; its value; why it is out ("": it is
    not).
    """

    number: int
    label: str
    made_on: str
    value: float
    out: str


class Chart(Struct, frozen=True):
    """A control chart of single runs: the middle, its limits, the points in their order."""

    middle: float
    low: float
    high: float
    points: tuple[Point, ...]

    @property
    def drifts(self) -> bool:
        """Whether anything is out."""
        return any(one.out for one in self.points)


def count_flaws(rows: Sequence[LearntRun]) -> tuple[FaultLine, ...]:
    """The faults of runs, the most frequent first.

    Parameters: rows, of what runs tell, in any order. A change cured a fault where the next run of
    the same procedure has it no more.
    """
    ordered = sorted(rows, key=lambda row: row.run)
    of_family = Counter(_find_family(row) for row in ordered)
    counted: Counter[str] = Counter()
    on: defaultdict[str, Counter[str]] = defaultdict(Counter)
    tried: defaultdict[str, defaultdict[str, list[bool]]] = defaultdict(lambda: defaultdict(list))
    standing: dict[int, LearntRun] = {}
    for row in ordered:
        for fault in row.told.faults:
            counted[fault] += 1
            on[fault][_find_family(row)] += 1
        before = standing.get(row.procedure)
        if before is not None and before.told.change:
            for fault in before.told.faults:
                tried[fault][before.told.change].append(fault not in row.told.faults)
        standing[row.procedure] = row
    return tuple(
        FaultLine(
            fault,
            n,
            len(ordered),
            tuple((family, k, of_family[family]) for family, k in on[fault].most_common()),
            tuple(
                sorted(
                    (Cure(code, sum(came), len(came)) for code, came in tried[fault].items()),
                    key=lambda cure: (-cure.cured, cure.tried, cure.code),
                )
            ),
        )
        for fault, n in counted.most_common()
    )


def _find_family(row: LearntRun) -> str:
    return format_family(row.told.family, row.told.metals) if row.told.family else "others"


def build_chart(rows: Sequence[LearntRun]) -> Chart | None:
    """The control chart of the current of good runs against the bench rule, %, of one machine or
    one hand; None where there are fewer than eight.

    Each against its own: never a machine or a hand against another. The middle: the median, so that
    one that is far out does not move it. Limits: three standard deviations from the mean moving
    range, Shewhart 1931; eight in a row on one side.
    """
    told = [
        row
        for row in sorted(rows, key=lambda r: (r.made_on, r.run))
        if row.told.weight > 0 and row.told.ratio is not None
    ]
    if len(told) < MIN_POINTS:
        return None
    values = [100 * math.expm1(row.told.ratio or 0.0) for row in told]
    middle = median(values)
    sd = fmean(abs(b - a) for a, b in pairwise(values)) / D2
    sd = max(sd, MIN_SD_PCT)
    low, high = middle - LIMIT_SD * sd, middle + LIMIT_SD * sd
    points, side = [], 0
    for row, value in zip(told, values, strict=True):
        way = (value > middle) - (value < middle)
        side = side + way if way and side * way >= 0 else way
        out = "beyond three standard deviations" if not low - 1e-9 <= value <= high + 1e-9 else ""
        out = out or (f"{RUN_OF} in a row on one side" if abs(side) >= RUN_OF else "")
        points.append(Point(row.run, row.label, row.made_on, value, out))
    return Chart(middle, low, high, tuple(points))


def list_weak_drills(
    rows: Sequence[LearntRun], drills: Mapping[str, Sequence[str]]
) -> tuple[tuple[str, int, int], ...]:
    """The drills that the last runs ask for: key, in how many runs its faults came up, of how many;
    the most first.

    Parameters: drills, the faults that speak for each. A weakness: two of the last sixty runs, and
    8 % of them: estimate.
    """
    last = sorted(rows, key=lambda row: -row.run)[:WEAK_OF]
    found = []
    for key, faults in drills.items():
        n = sum(any(fault in row.told.faults for fault in faults) for row in last)
        if n >= WEAK_RUNS and n >= WEAK_SHARE * len(last):
            found.append((key, n, len(last)))
    return tuple(sorted(found, key=lambda one: -one[1]))
