"""Families of joints and of metals.

Runs of one family are evidence for another joint in it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from ..catalogue.rows import JointKind, Metal
from ..quantities import length

FAMILIES = {
    "edge": "corners and edges",
    "cope": "coped tube",
    "stud": "studs",
    "in-line": "butts",
    "fillet": "fillets and laps",
}
# The classes of thickness: each is 1.5 times the one before, with the usual gauges inside a class.
FIRST_CLASS_MM, CLASS_FACTOR = 0.5, 1.5
CLASS_MARK = "~"


def find_joint_family(kind: JointKind, thin_mm: float) -> str:
    """Return the family of a joint.

    It has the kind of joint (along an edge, coped, a stud, or else by the feed, in line or as a
    fillet) and the class of thickness. Estimate: similar heat flow.

    Args:
        kind: The kind of joint.
        thin_mm: The thickness of the thinner member, mm.
    """
    traits = {"along_edge": "edge", "cope": "cope", "stud": "stud"}
    family = next((name for trait, name in traits.items() if kind.has(trait)), kind.fed)
    return f"{family}{CLASS_MARK}{find_thickness_class(thin_mm)}"


def find_thickness_class(thin_mm: float) -> int:
    """Return the class of a thickness: 0 from 0.5 to 0.75 mm, 1 to 1.13 mm, and so on.

    Args:
        thin_mm: The thickness, mm.

    >>> [find_thickness_class(t) for t in (0.5, 0.7, 0.9, 1.1, 1.2, 1.6, 2.0, 2.5, 3.0)]
    [0, 0, 1, 1, 2, 2, 3, 3, 4]
    """
    return math.floor(math.log(thin_mm / FIRST_CLASS_MM) / math.log(CLASS_FACTOR) + 1e-9)


def find_metal_family(metals: Iterable[Metal]) -> str:
    """Return the family of two metals by their heat properties, in either order."""
    return "+".join(sorted({metal.thermal for metal in metals}))


def format_family(family: str, metals: str, units: str = "mm") -> str:
    """Return the name of a family, for example "butts of 1.1 to 1.7 mm in austenitic".

    Args:
        family: Key of the joint family.
        metals: Key of the metal family.
        units: Unit system.
    """
    name, _, number = family.partition(CLASS_MARK)
    text = FAMILIES.get(name, name)
    if number.lstrip("-").isdigit():
        low, high = (FIRST_CLASS_MM * CLASS_FACTOR ** (int(number) + end) for end in (0, 1))
        text += f" of {length(low).number(units)} to {length(high).text(units)}"
    return f"{text} in {metals.replace('+', ' and ').replace('-', ' ')}"
