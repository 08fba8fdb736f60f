"""Statistics of the record: frequent flaws, effective changes, and drift of machine or welder."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from itertools import pairwise
from statistics import fmean, median

from msgspec import Struct

from .families import CLASS_MARK, format_family
from .lessons import LearntRun

# Shewhart's constant for ranges of two: the mean moving range is 1.128 standard deviations.
# Published, from memory.
D2 = 1.128
LIMIT_SD = 3.0
# Whole amps have this resolution, %: estimate.
MIN_SD_PCT = 0.5
# This number of points in a row on one side is no chance: the Western Electric rules, from memory.
MIN_POINTS_IN_ROW = 8
# Fewer points do not define the usual level.
MIN_POINTS = 8
# A weakness needs this number of runs and this fraction of the last runs: estimates.
WEAK_RUNS, WEAK_SHARE, WEAK_WINDOW = 2, 0.08, 60


class Cure(Struct, frozen=True):
    """A change made for a flaw: number of attempts, and number without the flaw afterwards."""

    code: str
    cured: int
    tried: int


class FaultLine(Struct, frozen=True):
    """A flaw in the record.

    It has the number of runs with it and in total, its joints by frequency, and the effective
    changes.
    """

    fault: str
    runs: int
    of: int
    on: tuple[tuple[str, int, int], ...]
    cures: tuple[Cure, ...]


class Point(Struct, frozen=True):
    """A run on a control chart: number, label, date, value, and the broken rule or ""."""

    number: int
    label: str
    made_on: str
    value: float
    out: str


class Chart(Struct, frozen=True):
    """A control chart of single runs: centre line, limits and points in order."""

    middle: float
    low: float
    high: float
    points: tuple[Point, ...]

    @property
    def drifts(self) -> bool:
        """Return whether a point breaks a rule."""
        return any(point.out for point in self.points)


def count_flaws(rows: Sequence[LearntRun]) -> tuple[FaultLine, ...]:
    """Count the flaws of runs, the most frequent first.

    A change is effective if the next run of the same procedure has no such flaw.

    Args:
        rows: The runs, in any order.
    """
    ordered = sorted(rows, key=lambda row: row.run)
    family_counts = Counter(_find_family(row) for row in ordered)
    counted: Counter[str] = Counter()
    on: defaultdict[str, Counter[str]] = defaultdict(Counter)
    tried: defaultdict[str, defaultdict[str, list[bool]]] = defaultdict(lambda: defaultdict(list))
    latest_rows: dict[int, LearntRun] = {}
    for row in ordered:
        for fault in row.told.faults:
            counted[fault] += 1
            on[fault][_find_family(row)] += 1
        before = latest_rows.get(row.procedure)
        if before is not None and before.told.change:
            for fault in before.told.faults:
                tried[fault][before.told.change].append(fault not in row.told.faults)
        latest_rows[row.procedure] = row
    return tuple(
        FaultLine(
            fault,
            n,
            len(ordered),
            tuple((family, k, family_counts[family]) for family, k in on[fault].most_common()),
            tuple(
                sorted(
                    (
                        Cure(code, sum(outcomes), len(outcomes))
                        for code, outcomes in tried[fault].items()
                    ),
                    key=lambda cure: (-cure.cured, cure.tried, cure.code),
                )
            ),
        )
        for fault, n in counted.most_common()
    )


def _find_family(row: LearntRun) -> str:
    """Return the name of the family of a run, of every thickness."""
    kind, _, _ = row.told.family.partition(CLASS_MARK)
    return format_family(kind, row.told.metals) if kind else "others"


def build_chart(rows: Sequence[LearntRun]) -> Chart | None:
    """Build the control chart of the current of good runs against the rule of thumb, %.

    A chart has one machine or one welder and never compares two. The centre is the median, which
    one outlier does not move.

    Args:
        rows: The runs of one machine or one welder.

    Returns:
        The chart, or None with fewer than eight runs.

    References:
        Shewhart 1931: limits at three standard deviations from the mean moving range; eight points
        in a row on one side.
    """
    known_rows = [
        row
        for row in sorted(rows, key=lambda r: (r.made_on, r.run))
        if row.told.weight > 0 and row.told.ratio is not None and not row.told.unknown
    ]
    if len(known_rows) < MIN_POINTS:
        return None
    values = [100 * math.expm1(row.told.ratio or 0.0) for row in known_rows]
    middle = median(values)
    sd = fmean(abs(b - a) for a, b in pairwise(values)) / D2
    sd = max(sd, MIN_SD_PCT)
    low, high = middle - LIMIT_SD * sd, middle + LIMIT_SD * sd
    points, side = [], 0
    for row, value in zip(known_rows, values, strict=True):
        new_side = (value > middle) - (value < middle)
        side = side + new_side if new_side and side * new_side >= 0 else new_side
        out = "beyond three standard deviations" if not low - 1e-9 <= value <= high + 1e-9 else ""
        out = out or (
            f"{MIN_POINTS_IN_ROW} in a row on one side" if abs(side) >= MIN_POINTS_IN_ROW else ""
        )
        points.append(Point(row.run, row.label, row.made_on, value, out))
    return Chart(middle, low, high, tuple(points))


def list_weak_drills(
    rows: Sequence[LearntRun], drills: Mapping[str, Sequence[str]]
) -> tuple[tuple[str, int, int], ...]:
    """Return the drills for the flaws of the last runs, the most frequent first.

    A weakness is two of the last sixty runs and 8 % of them: estimate.

    Args:
        rows: The runs.
        drills: Flaws of each drill.

    Returns:
        Key of the drill, runs with its flaws, runs in total.
    """
    counted = ((key, *count_weak_runs(rows, faults)) for key, faults in drills.items())
    return tuple(sorted((row for row in counted if row[1]), key=lambda drill: -drill[1]))


def count_weak_runs(
    rows: Sequence[LearntRun], flaws: Sequence[str], causes: Sequence[str] = ()
) -> tuple[int, int]:
    """Return the number of the last runs with a weakness, 0 if there are too few, and their total.

    A weakness is two of the last sixty runs and 8 % of them: estimate.

    Args:
        rows: The runs.
        flaws: Keys of its flaws.
        causes: Keys of its causes.
    """
    last = sorted(rows, key=lambda row: -row.run)[:WEAK_WINDOW]
    count = sum(bool(set(r.told.faults) & set(flaws)) or r.told.cause in causes for r in last)
    is_weak = count >= WEAK_RUNS and count >= WEAK_SHARE * len(last)
    return (count if is_weak else 0), len(last)
