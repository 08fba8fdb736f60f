"""One or more words of a joint changed: what was typed is read, what follows follows, and what
cannot stand says why.

A form gives all its fields, the changed and the others; those that say what already stands are no
change.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from msgspec import Struct, field

from ..core import catalogue
from ..core.errors import InputError
from ..core.joint.data import MAX_SHEET_MM, joint_data, make_joint
from ..core.joint.joint import HEAVY_FORMS, Joint, Member
from ..core.quantities import (
    MM_PER_INCH,
    add_typed_unit,
    exact,
    length,
    parse_bare_number,
    scale_for,
)
from ..core.schema.entries import Entry, read_entries
from ..formats.link import (
    MEMBERS,
    Problem,
    get_quantity,
    link_key,
    link_problem,
    link_query,
    read_asked,
)
from .joint_follow import adapt_joint
from .joint_words import list_shown_texts

THIRD, SAME = "third", "same"


class Changed(Struct, frozen=True):
    """What came of a change: the joint as it stands after it, the keys that changed, what followed,
    what was refused, and what was typed where it was refused.
    """

    joint: Joint
    keys: tuple[str, ...] = ()
    said: list[str] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    typed: Mapping[str, str] = field(default_factory=dict)


def change(joint: Joint, given: Iterable[tuple[str, str]], habit: str) -> Changed:
    """Change a joint by what a form or a link gives.

    Parameters: joint, as it stands; given, pairs of key and text as typed, "" to let go; habit.
    Where anything of it cannot stand, the joint stays whole as it was.
    """
    shown = list_shown_texts(joint, habit)
    wanted = {}
    for raw, text in given:
        key = link_key(raw)
        if text.strip() not in shown.get(key, ("",)) or (key in (SAME, THIRD) and text):
            wanted[key] = text.strip()
    if not wanted:
        return Changed(joint)
    problems = [
        found for key, text in wanted.items() if (found := _ask_question(joint, key, text, habit))
    ]
    if problems:
        return Changed(joint, (), [], problems, wanted)
    keys = tuple(
        f"{THIRD}.{text}" if key == THIRD else "b.form" if key == SAME else key
        for key, text in wanted.items()
    )
    asked, problems = read_asked(_list_pairs(joint, wanted, habit))
    if problems:
        return Changed(joint, (), [], problems, wanted)
    said: list[str] = []
    for key in keys:
        asked, more = adapt_joint(asked, key)
        said += more
    try:
        return Changed(make_joint(asked.data()), keys, list(dict.fromkeys(said)))
    except InputError as error:
        problem = link_problem(error, habit)
        # said where it was changed, if what broke was another word
        where = problem.key if problem.key in wanted else next(iter(wanted))
        typed = wanted[where] if problem.key == where else problem.typed
        told = Problem(where, typed, problem.rule, problem.offers if problem.key == where else ())
        return Changed(joint, (), [], [told], wanted)


def _list_pairs(joint: Joint, wanted: Mapping[str, str], habit: str) -> list[tuple[str, str]]:
    """A joint's link with the words that are wanted in it."""
    drop = {key for key, text in wanted.items() if text == "" or key in (SAME, THIRD)}
    kept = [
        (k, v)
        for k, v in link_query(joint_data(joint))
        if k not in wanted and not (SAME in wanted and k.startswith("b."))
    ]
    new = [
        (k, add_typed_unit(text, get_quantity(k), habit))
        for k, text in wanted.items()
        if k not in drop
    ]
    return [*kept, *new]


def _ask_question(joint: Joint, key: str, text: str, habit: str) -> Problem | None:
    """What has to be asked of a length before it can be taken: which unit, which gauge; or a word
    that cannot be let go.
    """
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
            return _ask_gauge(key, text, bare, member, habit, high)
    if bare.startswith(".") and habit == "mm":
        return _ask_unit(key, text, bare, declared.low, high)
    return None


def _ask_gauge(
    key: str, text: str, bare: str, member: Member, habit: str, high: float
) -> Problem | None:
    scale = catalogue.load_gauge_scales()[scale_for(member.metal.kind, member.form, member.coating)]
    if bare not in scale.inches:
        return None
    mm = int(bare) * (1.0 if habit == "mm" else MM_PER_INCH)
    gauge = f"{bare} ga"
    words = f"{gauge} ({length(scale.inches[bare] * MM_PER_INCH).text(habit)})"
    if mm > high:
        thick = exact(mm).text(habit)
        return Problem(
            key,
            text,
            f"would be {thick}, which is too thick here. Did you mean {words}?",
            ((gauge, words),),
        )
    other = f"{bare} {'mm' if habit == 'mm' else 'in'}"
    return Problem(
        key,
        text,
        f"can be a gauge or a thickness: {words}, or {other}?",
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
