"""Families of joints and of metals: what runs of one tell of another."""

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
    """The family of a joint: along an edge, coped, else as its rod is fed, in line or as a fillet.
    Estimate: heat leaves them alike.
    """
    return "edge" if kind.has("along_edge") else "cope" if kind.has("cope") else kind.fed


def find_metal_family(metals: Iterable[Metal]) -> str:
    """The family of two metals: by what their heat properties are, in either order."""
    return "+".join(sorted({metal.thermal for metal in metals}))


def format_family(family: str, metals: str) -> str:
    """A family in words: "butts in austenitic"."""
    return f"{FAMILIES.get(family, family)} in {metals.replace('+', ' and ').replace('-', ' ')}"
