"""Changes of a joint.

Typed values are parsed, dependent fields are adapted, and impossible values are explained. A form
sends all its fields. Unchanged values are no change.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from msgspec import Struct, field

from ..core import catalogue
from ..core.errors import InputError
from ..core.joint.data import MAX_SHEET_MM, joint_data, make_joint
from ..core.joint.joint import HEAVY_FORMS, Joint, Member
from ..core.quantities import MM_PER_INCH, exact, length
from ..core.schema.entries import Entry, read_entries
from ..core.typed_quantities import add_typed_unit, parse_bare_number, scale_for
from ..formats.link import (
    MEMBERS,
    Problem,
    get_quantity,
    link_key,
    link_problem,
    link_query,
    read_asked,
)
from .joint_fields import list_shown_texts
from .joint_follow import adapt_joint

THIRD, SAME = "third", "same"


class Changed(Struct, frozen=True):
    """The result of a change.

    The joint, the changed keys, notices about adapted fields, errors, and the typed text of wrong
    fields.
    """

    joint: Joint
    keys: tuple[str, ...] = ()
    said: list[str] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    typed: Mapping[str, str] = field(default_factory=dict)


def change(joint: Joint, pairs: Iterable[tuple[str, str]], units: str) -> Changed:
    """Change a joint by the pairs of a form or a link.

    An impossible value leaves the complete joint unchanged.

    Args:
        joint: The present joint.
        pairs: Pairs of key and typed text, "" to reset.
        units: Unit system of numbers without unit.
    """
    displayed = list_shown_texts(joint, units)
    wanted = {}
    for raw, text in pairs:
        key = link_key(raw)
        if text.strip() not in displayed.get(key, ("",)) or (key in (SAME, THIRD) and text):
            wanted[key] = text.strip()
    if not wanted:
        return Changed(joint)
    problems = [
        question
        for key, text in wanted.items()
        if (question := _ask_question(joint, key, text, units))
    ]
    if problems:
        return Changed(joint, (), [], problems, wanted)
    keys = tuple(
        f"{THIRD}.{text}" if key == THIRD else "b.form" if key == SAME else key
        for key, text in wanted.items()
    )
    asked, problems = read_asked(_list_pairs(joint, wanted, units))
    if problems:
        return Changed(joint, (), [], problems, wanted)
    notices: list[str] = []
    for key in keys:
        asked, more = adapt_joint(asked, key)
        notices += more
    try:
        return Changed(make_joint(asked.data()), keys, list(dict.fromkeys(notices)))
    except InputError as error:
        problem = link_problem(error, units)
        # The error is shown at the changed field, even if another field is wrong.
        where = problem.key if problem.key in wanted else next(iter(wanted))
        typed = wanted[where] if problem.key == where else problem.typed
        shown_problem = Problem(
            where, typed, problem.rule, problem.offers if problem.key == where else ()
        )
        return Changed(joint, (), [], [shown_problem], wanted)


def _list_pairs(joint: Joint, wanted: Mapping[str, str], units: str) -> list[tuple[str, str]]:
    """Return the link of a joint with changed keys."""
    drop = {key for key, text in wanted.items() if text == "" or key in (SAME, THIRD)}
    kept = [
        (k, v)
        for k, v in link_query(joint_data(joint))
        if k not in wanted and not (SAME in wanted and k.startswith("b."))
    ]
    new = [
        (k, add_typed_unit(text, get_quantity(k), units))
        for k, text in wanted.items()
        if k not in drop
    ]
    return [*kept, *new]


def _ask_question(joint: Joint, key: str, text: str, units: str) -> Problem | None:
    """Return the question about a length: its unit or gauge scale, or a value that is required."""
    declared, member = _find_declaration(key), _find_member(joint, key)
    if declared is None or declared.kind != "length":
        return None
    if text == "":
        empty = "is empty. Type a length such as " + declared.hint.partition(";")[0]
        return (
            Problem(key, "", f"{declared.label.lower()} {empty}")
            if declared.required or declared.usual
            else None
        )
    bare = parse_bare_number(text)
    if not bare:
        return None
    high = declared.high
    if declared.gauged and member is not None:
        high = declared.high if member.form in HEAVY_FORMS else MAX_SHEET_MM
        if bare.isdigit():
            return _ask_gauge(key, text, bare, member, units, high)
    if bare.startswith(".") and units == "mm":
        return _ask_unit(key, text, bare, declared.low, high)
    return None


def _ask_gauge(
    key: str, text: str, bare: str, member: Member, units: str, high: float
) -> Problem | None:
    scale = catalogue.load_gauge_scales()[scale_for(member.metal.kind, member.form, member.coating)]
    if bare not in scale.inches:
        return None
    mm = int(bare) * (1.0 if units == "mm" else MM_PER_INCH)
    gauge = f"{bare} ga"
    wording = f"{gauge} ({length(scale.inches[bare] * MM_PER_INCH).text(units)})"
    if mm > high:
        thick = exact(mm).text(units)
        return Problem(
            key,
            text,
            f"would be {thick}, which is too thick here. Did you mean {wording}?",
            ((gauge, wording),),
        )
    other = f"{bare} {'mm' if units == 'mm' else 'in'}"
    return Problem(
        key,
        text,
        f"can be a gauge or a thickness: {wording}, or {other}?",
        ((gauge, gauge), (other, other)),
    )


def _ask_unit(key: str, text: str, bare: str, low: float, high: float) -> Problem | None:
    mm = float(bare)
    inch = mm * MM_PER_INCH
    if not (low <= mm <= high and low <= inch <= high):
        return None
    as_mm, as_inch = f"0{bare} mm", f"{bare} in"
    return Problem(
        key,
        text,
        f"can be {as_mm}, or {as_inch} ({length(inch).text()})",
        ((as_mm, as_mm), (as_inch, as_inch)),
    )


def _find_declaration(key: str) -> Entry | None:
    if _name(key) in MEMBERS:
        return read_entries(Member).get(key.partition(".")[2])
    return read_entries(Joint).get(key)


def _find_member(joint: Joint, key: str) -> Member | None:
    name = _name(key)
    index = MEMBERS.index(name) if name in MEMBERS else len(joint.members)
    return joint.members[index] if index < len(joint.members) else None


def _name(key: str) -> str:
    return key.partition(".")[0] if "." in key else ""
