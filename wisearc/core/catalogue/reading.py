"""The tables for the reading of a bead: flaws, tints, signs, causes, changes and repairs."""

from __future__ import annotations

from functools import cache

from msgspec import Struct

from ..errors import CatalogueError
from .tables import build_rows, convert_lists_to_tuples, read_table

# The key of an oxidised root among the flaws, which a run records as the colour of its root.
OXIDISED_ROOT = "sugar"


class Tint(Struct, frozen=True):
    """A heat tint in air.

    Name, colour in a run, and minimum temperature °C on a 304-type sheet (None: not in the table).
    It also has its drawing, its colour on silver metal in a photograph, and whether it is above the
    last of the table.
    """

    key: str
    name: str
    colour: str
    ink: tuple[str, str]
    film: str
    source: str
    mark: str
    from_c: float | None = None
    above: bool = False


class Sign(Struct, frozen=True):
    """A sign of a run, observed, set, logged or calculated.

    Its text, the text for its absence, the question that asks for it ("": none), the flaw that
    implies it, and whether an inspector can miss that flaw.
    """

    key: str
    words: str
    absent: str
    ask: str = ""
    flaw: str = ""
    missed: bool = False


class Cause(Struct, frozen=True):
    """A possible cause.

    Its prior weight, its evidence as {sign: (weight if present, weight if absent)}, and its changes
    in order. `way` is what it needs ("more heat") or "". `once` has the changes that are tried once
    only.
    """

    key: str
    name: str
    prior: float
    evidence: dict[str, list[float]]
    changes: tuple[str, ...]
    source: str
    mark: str
    way: str = ""
    once: tuple[str, ...] = ()


class ReadChange(Struct, frozen=True):
    """A change that a diagnosis proposes.

    It has the key of plan or set-up ("hand", "fit" and "set" are none), a short and a full text,
    the observation to make, and its effect ("more heat"). It also has the figures of a run that
    show it, the cautions that do not prevent it, and those that always prevent it. `more_is` is the
    effect of a larger value, for a return to the plan.
    """

    key_of: str
    short: str
    key: str
    words: str
    watch: str
    way: str = ""
    told: tuple[str, ...] = ()
    despite: tuple[str, ...] = ()
    against: tuple[str, ...] = ()
    more_is: str = ""


class RepairStep(Struct, frozen=True):
    """A step of a repair: its sentence, and the facts that must hold ("!": must not hold)."""

    words: str
    when: tuple[str, ...] = ()


class RepairRow(Struct, frozen=True):
    """A repair of a flaw on the part.

    Its flaw and name, the margin beyond each end in thicknesses, the share of the planned current,
    the limit of the repair, its steps, and the published work with the limit or "".
    """

    key: str
    name: str
    margin_t: float
    share: float
    limit: str
    steps: tuple[RepairStep, ...]
    source: str = ""


class Contrary(Struct, frozen=True):
    """Two signs that exclude each other, and the text for both together."""

    first: str
    second: str
    words: str


@cache
def load_flaws() -> dict[str, str]:
    """Return the names of the flaws by key."""
    return {str(key): str(text) for key, text in read_table("flaws")["flaws"].items()}


@cache
def load_flaw_groups() -> dict[str, dict[str, str]]:
    """Return the flaws by group in the order in which they are offered, those without group last.

    Raises:
        CatalogueError: A flaw of a group is unknown.
    """
    flaws, left = load_flaws(), dict(load_flaws())
    groups: dict[str, dict[str, str]] = {}
    for title, keys in read_table("flaws").get("groups", {}).items():
        for key in keys:
            if key not in flaws:
                raise CatalogueError(f"flaws.toml, {title}: “{key}” is not a flaw of the table")
            left.pop(key, None)
        groups[str(title)] = {key: flaws[key] for key in keys}
    return groups | ({"Others": left} if left else {})


@cache
def load_tints() -> dict[str, Tint]:
    """Return the heat tints in order of temperature."""
    return build_rows(Tint, "tints", "tints")


@cache
def load_signs() -> dict[str, Sign]:
    """Return the signs of a run by key.

    Raises:
        CatalogueError: A flaw is unknown.
    """
    signs: dict[str, Sign] = build_rows(Sign, "reading", "signs", drop=("source", "mark"))
    for key, sign in signs.items():
        if sign.flaw and sign.flaw not in load_flaws():
            raise CatalogueError(f"reading.toml, {key}: flaw “{sign.flaw}” is not in flaws.toml")
    return signs


@cache
def load_causes() -> dict[str, Cause]:
    """Return the causes with their evidence by key.

    Raises:
        CatalogueError: A sign or a change is unknown.
    """
    causes: dict[str, Cause] = build_rows(Cause, "reading", "causes")
    for key, cause in causes.items():
        for name, known in ((cause.evidence, load_signs()), (cause.changes, read_changes())):
            for wanted_key in name:
                if wanted_key not in known:
                    raise CatalogueError(
                        f"reading.toml, {key}: “{wanted_key}” is not in the table. Use one of "
                        f"{', '.join(known)}"
                    )
    return causes


@cache
def read_changes() -> dict[str, ReadChange]:
    """Return the possible changes by key."""
    changes: dict[str, ReadChange] = {}
    for key, row in read_table("reading")["changes"].items():
        changes[key] = ReadChange(key, **convert_lists_to_tuples(row))
    return changes


@cache
def load_repairs() -> dict[str, RepairRow]:
    """Return the repairs by flaw, "sugar" for an oxidised root.

    Raises:
        CatalogueError: A flaw is unknown.
    """
    repairs: dict[str, RepairRow] = {}
    for first, row in read_table("repairs")["repairs"].items():
        steps = tuple(
            RepairStep(step["words"], tuple(step.get("when", ()))) for step in row["steps"]
        )
        values = {key: value for key, value in row.items() if key != "also"}
        for key in (first, *row.get("also", ())):
            if key != OXIDISED_ROOT and key not in load_flaws():
                raise CatalogueError(f"repairs.toml, {key}: is not a flaw in flaws.toml")
            repairs[key] = RepairRow(key, **{**values, "steps": steps})
    return repairs


@cache
def load_contraries() -> tuple[Contrary, ...]:
    """Return pairs of signs that exclude each other."""
    return tuple(Contrary(**row) for row in read_table("reading")["contraries"])
