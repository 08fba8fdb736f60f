"""Procedures that fit a joint: by distance in metal, thickness, diameter and service, with why."""

from __future__ import annotations

import math

from msgspec import Struct

from ...core import catalogue
from ...core.plan.plan import Plan
from ...core.quantities import Quantity, format_count
from ...store import listings
from ...store.errors import StoreError
from ...store.models import Listing

MAX_FITTING = 4
# Estimates. A difference of a third in thickness needs another current by a third. A procedure for
# other metal of the same family helps more than one for another thickness by half.
MAX_THICKNESS_SHARE = 0.5
_MAX_CANDIDATES = 60
_OTHER_METAL, _OTHER_GROUP, _OTHER_SERVICE, _NOT_VERIFIED, _NO_GOOD_RUN = 0.15, 0.6, 0.1, 0.2, 0.1
_DIAMETER_WEIGHT = 0.3
MAX_DISTANCE = 1.0
# Below this difference a thickness counts as the same.
_SAME_SHARE = 0.03


class Fitting(Struct, frozen=True):
    """A procedure that fits: its row, its distance (0: the same), and why as clauses.

    A clause with a figure is a `Quantity` after its text.
    """

    row: Listing
    distance: float
    reasons: tuple[tuple[str, Quantity | None], ...]

    def explain(self, units: str) -> str:
        """Return why it fits, in a unit system.

        Args:
            units: Unit system.
        """
        parts = [
            text if figure is None else f"{figure.text(units)} {text}"
            for text, figure in self.reasons
        ]
        text = ", ".join(parts)
        return f"{text[:1].upper()}{text[1:]}."


def build_fitting_key(plan: Plan) -> tuple[str, ...]:
    """Return the facts of a joint that decide which procedures fit.

    Args:
        plan: The plan of the joint.
    """
    sides = plan.section.sides
    return (
        str(plan.joint.get("joint")),
        str(plan.joint.get("service")),
        *(f"{side.metal} {side.thickness_mm:g} {side.diameter_mm or 0:g}" for side in sides),
    )


def list_fitting(plan: Plan) -> list[Fitting]:
    """Return the procedures that fit a joint, the nearest first.

    Args:
        plan: The plan of the joint.
    """
    joint = str(plan.joint.get("joint", ""))
    thin_mm = min(side.thickness_mm for side in plan.section.sides)
    try:
        rows = listings.list_near(joint, thin_mm, MAX_THICKNESS_SHARE, _MAX_CANDIDATES)
    except StoreError:
        # A plan does not depend on the library.
        return []
    fitting = [_measure(plan, thin_mm, row) for row in rows]
    near = [fit for fit in fitting if fit.distance <= MAX_DISTANCE]
    return sorted(near, key=lambda fit: (fit.distance, -fit.row.number))[:MAX_FITTING]


def _measure(plan: Plan, thin_mm: float, row: Listing) -> Fitting:
    distance, reasons = 0.0, list[tuple[str, Quantity | None]]()
    metals = list(dict.fromkeys(side.metal for side in plan.section.sides))
    if row.metals == " + ".join(metals):
        reasons.append(("same metal", None))
    else:
        is_related = _list_groups(metals) == _list_groups(row.metals.split(" + "))
        distance += _OTHER_METAL if is_related else _OTHER_GROUP
        reasons.append((f"{row.metals} instead of {' + '.join(metals)}", None))
    distance += _compare_size(thin_mm, row.thin_mm, ("thicker", "thinner"), 1.0, reasons)
    diameters = [side.diameter_mm for side in plan.section.sides if side.diameter_mm is not None]
    if diameters and row.diameter_mm is not None:
        distance += _compare_size(
            max(diameters),
            row.diameter_mm,
            ("more diameter", "less diameter"),
            _DIAMETER_WEIGHT,
            reasons,
        )
    if row.service != plan.joint.get("service"):
        distance += _OTHER_SERVICE
        reasons.append(("for another service", None))
    if row.status != "proved":
        distance += _NOT_VERIFIED
        reasons.append(("not verified", None))
    if row.good:
        reasons.append((format_count(row.good, "good run"), None))
    else:
        distance += _NO_GOOD_RUN
    return Fitting(row, distance, tuple(reasons))


def _compare_size(
    wanted_mm: float,
    size_mm: float | None,
    names: tuple[str, str],
    weight: float,
    reasons: list[tuple[str, Quantity | None]],
) -> float:
    """Return the distance of a size, and add its reason. `names`: larger and smaller."""
    if not size_mm:
        return weight
    share = math.log(size_mm / wanted_mm)
    if abs(share) < _SAME_SHARE:
        if weight == 1.0:
            reasons.append(("same thickness", None))
        return 0.0
    name = names[0] if share > 0 else names[1]
    reasons.append((name, Quantity(abs(size_mm - wanted_mm), "length")))
    return weight * abs(share)


def _list_groups(metals: list[str]) -> set[str]:
    rows = catalogue.load_metals()
    return {rows[metal].group for metal in metals if metal in rows}
