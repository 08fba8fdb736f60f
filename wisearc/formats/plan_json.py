"""wisearc/plan: a plan as JSON.

The declarations (`declared`) write the figures. Reasons, alternatives, cautions and sentences are
written explicitly. Each is text in both unit systems with a few keys, flattened for readability.
"""

from __future__ import annotations

from typing import Any

from ..core.errors import InputError
from ..core.joint.section import Section
from ..core.joint.words import Part
from ..core.plan.plan import ManualAnswer, Plan, list_choice_kinds
from ..core.reasons import (
    LEVELS,
    Alternative,
    Caution,
    Choice,
    Reason,
    StoredText,
    Words,
    store_text,
)
from ..core.schema import checks
from ..core.schema.figures import list_figures
from ..core.schema.json_types import Json, Unparsed
from .declared import MAX_OTHER_QUANTITY, check_keys, read_figure, read_figures, read_text, to_data
from .joint_json import write_joint_file
from .upgrades.steps import upgrade_record

FORMAT, VERSION, MINOR = "wisearc/plan", 1, 7
# Maximum numbers of sentences, cautions and reasons, far above any plan.
MAX_ROWS = 200
MAX_KEYS, MAX_KEY_LENGTH, MAX_WORD_LENGTH = 60, 60, 200
HEAD = ("format", "version", "minor", "title", "title_in", "sentence", "joint", "section")
TAIL = ("after", "by_hand", "cautions")
# The part of a figure that is in the plan itself.
OWN = "."


def plan_data(plan: Plan) -> dict[str, Json]:
    """Return the data of a plan file, with sentences in `text` (mm) and `text_in` (inches)."""
    parts: dict[str, dict[str, Json]] = {OWN: {}, **{kind.part: {} for kind in list_choice_kinds()}}
    for choice in plan.choices:
        for key, declared in list_figures(type(choice)).items():
            parts[declared.part or choice.part][key] = to_data(getattr(choice, key))
    for choice in plan.choices:
        parts[choice.part] |= {
            "why": [reason_data(r) for r in choice.why],
            "others": [_write_alternative(o) for o in choice.others],
        }
    return {
        "format": FORMAT,
        "version": VERSION,
        "minor": MINOR,
        **_write_both("title", plan.title),
        "sentence": [
            {**_write_both("text", p.words), "word": p.word, "tail": p.tail} for p in plan.sentence
        ],
        "joint": write_joint_file(plan.joint),
        "section": to_data(plan.section),
        **parts.pop(OWN),
        **parts,
        "after": [reason_data(r) for r in plan.after],
        "by_hand": [
            {"key": b.key, "at": b.answer, **_write_both("text", b.words)} for b in plan.by_hand
        ],
        "cautions": [_write_caution(c) for c in plan.cautions],
    }


def read_plan(data: Any) -> Plan:
    """Parse a plan file of this version or an older one, from its contents only.

    Raises:
        InputError: A value is wrong, or the version is newer. The error names key, value and rule.
    """
    data = upgrade_record("plan", data)
    kinds = list_choice_kinds()
    own_figures = [key for kind in kinds for key, f in list_figures(kind).items() if f.part == OWN]
    check_keys(data, (*HEAD, *own_figures, *(kind.part for kind in kinds), *TAIL), "plan")
    for kind in kinds:
        own_figures = [
            key
            for k in kinds
            for key, f in list_figures(k).items()
            if (f.part or k.part) == kind.part
        ]
        check_keys(data[kind.part], (*own_figures, "why", "others"), f"plan.{kind.part}")
    parts: dict[str, Any] = {kind.part: _read_choice(kind, data) for kind in kinds}
    plan = Plan(
        joint=check_joint_shape(data["joint"], "plan.joint"),
        title=_read_both(data, "title", "plan"),
        sentence=tuple(_list(data, "sentence", _read_part)),
        section=Section(**read_figures(Section, data["section"], "plan.section")),
        **parts,
        after=tuple(_list(data, "after", _read_reason)),
        by_hand=tuple(_list(data, "by_hand", _read_manual_answer)),
        cautions=tuple(_list(data, "cautions", _read_caution)),
    )
    _check_consistency(plan)
    return plan


def _read_choice(kind: type[Choice], data: Unparsed) -> Choice:
    values = {}
    for key, declared in list_figures(kind).items():
        part = declared.part or kind.part
        holder, where = (data, "plan") if part == OWN else (data[part], f"plan.{part}")
        values[key] = read_figure(kind, key, holder[key], f"{where}.{key}")
    part, where = data[kind.part], f"plan.{kind.part}"
    why = tuple(_list(part, "why", _read_reason, where))
    return kind(**values, why=why, others=tuple(_list(part, "others", _read_other, where)))


def _check_consistency(plan: Plan) -> None:
    """Check the consistency of the figures of a plan.

    Raises:
        InputError: They are inconsistent.
    """
    pulse, travel, filler, slopes, tacks = (
        plan.pulse,
        plan.travel,
        plan.filler,
        plan.slopes,
        plan.tacks,
    )
    train = (pulse.rate_pps, pulse.on_pct, pulse.background_pct, pulse.background_a)
    if pulse.pulsed and None in train:
        text = "must contain rate_pps, on_pct, background_pct and background_a with a pulse"
        raise InputError("plan.pulse", None, text)
    exclusive = (
        ("plan.travel", "pitch_mm and overlap_pct", travel.pitch_mm, travel.overlap_pct),
        ("plan.filler", "rod and diameter_mm", filler.rod, filler.diameter_mm),
        ("plan.slopes", "start_a and finish_a", slopes.start_a, slopes.finish_a),
        (
            "plan.weld_metal",
            "rod_cr_eq and rod_ni_eq",
            plan.weld_metal.rod_cr_eq,
            plan.weld_metal.rod_ni_eq,
        ),
    )
    for where, names, left, other in exclusive:
        if (left is None) != (other is None):
            raise InputError(where, None, f"must contain both {names}, or neither")
    if sorted(tacks.order) != list(range(tacks.count)) or len(tacks.positions_mm) != tacks.count:
        text = "must be the number of positions_mm, and order must list each once"
        raise InputError("plan.tacks", tacks.count, text)
    if len(plan.heat.curve_c) < 2:
        raise InputError(
            "plan.heat.curve_c", len(plan.heat.curve_c), "must contain at least two points"
        )
    if len(plan.section.sides) not in (2, 3):
        raise InputError("plan.section.sides", len(plan.section.sides), "must be two or three")


def _write_both(key: str, text: Words) -> dict[str, str]:
    stored = store_text(text)
    return {key: stored.mm, f"{key}_in": stored.inch}


def _read_both(row: Unparsed, key: str, where: str) -> StoredText:
    mm = read_text(row.get(key), f"{where}.{key}")
    return StoredText(mm, read_text(row.get(f"{key}_in", mm), f"{where}.{key}_in"))


def _list(data: Unparsed, key: str, read: Any, where: str = "plan") -> list[Any]:
    rows, place = data[key], f"{where}.{key}"
    if not isinstance(rows, list) or len(rows) > MAX_ROWS:
        raise InputError(place, rows, f"must be a list of at most {MAX_ROWS}")
    for i, row in enumerate(rows):
        if not isinstance(row, dict):
            raise InputError(f"{place}[{i}]", row, "must be an object")
    return [read(row, f"{place}[{i}]") for i, row in enumerate(rows)]


def _read_text(row: Unparsed, key: str, where: str) -> str:
    return read_text(row.get(key, ""), f"{where}.{key}")


def check_joint_shape(joint: Any, where: str) -> dict[str, Json]:
    """Check the shape of a saved joint with any names, and return it without its head.

    Args:
        joint: The data.
        where: Key for errors.

    Raises:
        InputError: The data is no joint.
    """
    shape = dict(checks.check_mapping(where, joint))
    read_text(shape.get("joint"), f"{where}.joint")
    members = checks.check_rows(f"{where}.members", shape.get("members"), 3)
    if len(members) < 2:
        raise InputError(f"{where}.members", f"{len(members)} items", "must contain 2 to 3")
    remaining = {k: v for k, v in shape.items() if k not in ("members", "pins")}
    parts = {f"{where}.members[{i}]": member for i, member in enumerate(members)}
    for place, row in (parts | {f"{where}.pins": shape.get("pins", {}), where: remaining}).items():
        check_text_fields(row, place)
    return {k: v for k, v in shape.items() if k not in ("format", "version")}


def check_text_fields(row: Any, where: str) -> None:
    """Check an object of a few texts and numbers.

    Args:
        row: The data.
        where: Key for errors.

    Raises:
        InputError: The data is no such object.
    """
    if len(checks.check_mapping(where, row)) > MAX_KEYS:
        raise InputError(where, row, f"must contain at most {MAX_KEYS} keys")
    for key, value in row.items():
        place = f"{where}.{key}"
        checks.check_line(where, key, MAX_KEY_LENGTH)
        if isinstance(value, str):
            checks.check_line(place, value, MAX_WORD_LENGTH)
        elif isinstance(value, bool) or value is None:
            continue
        elif isinstance(value, int | float):
            checks.check_number(place, value, -MAX_OTHER_QUANTITY, MAX_OTHER_QUANTITY)
        else:
            raise InputError(place, value, "must be a word or a number")


def reason_data(r: Reason) -> dict[str, Json]:
    """Return a reason as in a plan file."""
    row: dict[str, Json] = {
        **_write_both("text", r.sentence),
        "source": r.title,
        "mark": r.mark,
        "source_key": r.source,
    }
    if r.formula and r.worked:
        row |= {"formula": r.formula, **_write_both("worked", r.worked)}
    return row


def _read_reason(row: Unparsed, where: str) -> Reason:
    allowed = ("text_in", "source_key", "formula", "worked", "worked_in")
    check_keys(row, ("text", "source", "mark"), where, allowed)
    worked = _read_both(row, "worked", where) if "worked" in row else None
    cited = _read_text(row, "source", where) or "–"
    mark, key = _read_text(row, "mark", where), _read_text(row, "source_key", where)
    return Reason(
        _read_both(row, "text", where), key, mark, _read_text(row, "formula", where), worked, cited
    )


def _write_alternative(o: Alternative) -> dict[str, Json]:
    row: dict[str, Json] = {
        **_write_both("value", o.value),
        **_write_both("text", o.sentence),
        "source": o.title,
        "mark": o.mark,
        "sets": o.sets,
    }
    return row | ({"school": o.school} if o.school else {})


def _read_other(row: Unparsed, where: str) -> Alternative:
    check_keys(
        row, ("value", "text", "source", "mark", "sets"), where, ("value_in", "text_in", "school")
    )
    cited = _read_text(row, "source", where) or "–"
    value, text, sets = (
        _read_both(row, "value", where),
        _read_both(row, "text", where),
        _read_sets(row, where),
    )
    return Alternative(
        value,
        text,
        sets,
        _read_text(row, "school", where),
        "",
        _read_text(row, "mark", where),
        cited,
    )


def _write_caution(c: Caution) -> dict[str, Json]:
    row: dict[str, Json] = {
        "level": c.level,
        "code": c.code,
        "at": c.at,
        **_write_both("text", c.sentence),
    }
    return row | ({"mend": c.mend, "sets": c.sets} if c.sets else {})


def _read_caution(row: Unparsed, where: str) -> Caution:
    check_keys(row, ("level", "code", "at", "text"), where, ("text_in", "mend", "sets"))
    if row["level"] not in LEVELS:
        raise InputError(f"{where}.level", row["level"], "must be one of " + ", ".join(LEVELS))
    code, at, fix = (_read_text(row, key, where) for key in ("code", "at", "mend"))
    return Caution(
        row["level"], code, at, _read_both(row, "text", where), _read_sets(row, where), fix
    )


def _read_sets(row: Unparsed, where: str) -> Unparsed:
    sets: Unparsed = row.get("sets", {})
    check_text_fields(sets, f"{where}.sets")
    return sets


def _read_part(row: Unparsed, where: str) -> Part:
    check_keys(row, ("text", "word", "tail"), where, ("text_in",))
    return Part(
        _read_both(row, "text", where),
        _read_text(row, "word", where),
        _read_text(row, "tail", where),
    )


def _read_manual_answer(row: Unparsed, where: str) -> ManualAnswer:
    check_keys(row, ("key", "at", "text"), where, ("text_in",))
    return ManualAnswer(
        _read_text(row, "key", where), _read_text(row, "at", where), _read_both(row, "text", where)
    )
