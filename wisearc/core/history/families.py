"""Families of joints and of metals.

Runs of one family are evidence for another joint in it.
"""

from __future__ import annotations

from collections.abc import Iterable

from ..catalogue.rows import JointKind, Metal

FAMILIES = {
    "edge": "corners and edges",
    "cope": "coped tube",
    "in-line": "butts",
    "fillet": "fillets and laps",
}


def find_joint_family(kind: JointKind) -> str:
    """Return the family of a joint.

    The families are along an edge, coped, or else by the feed, in line or as a fillet. Estimate:
    similar heat flow.
    """
    return "edge" if kind.has("along_edge") else "cope" if kind.has("cope") else kind.fed


def find_metal_family(metals: Iterable[Metal]) -> str:
    """Return the family of two metals by their heat properties, in either order."""
    return "+".join(sorted({metal.thermal for metal in metals}))


def format_family(family: str, metals: str) -> str:
    """Return the name of a family, for example "butts in austenitic".

    Args:
        family: Key of the joint family.
        metals: Key of the metal family.
    """
    return f"{FAMILIES.get(family, family)} in {metals.replace('+', ' and ').replace('-', ' ')}"
