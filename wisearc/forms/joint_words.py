"""What each word of the sentence offers when it is opened: its fields, from the joint's table, for
the template.
"""

from __future__ import annotations

from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from ..core.joint.joint import ALL_ROUND, Joint, Member
from ..core.plan.pins import PINS, Pin
from ..core.quantities import Length, Quantity, format_plain, length
from ..core.schema.entries import Entry, read_attributes, read_entries
from ..formats.link import MEMBERS
from .fields import Choice, Field, list_choices

_ORDINAL = ("First", "Second", "Third")
# the words in the order of the sentence, with the title of each one's editor
_TITLES = {
    "joint": "Joint",
    "angle": "Angle",
    "length": "Length",
    "position": "Position",
    "gap": "Gap",
    "purpose": "Purpose of the weld",
    "access": "Root access",
    "purge": "Dammed length",
    "control": "Current control",
    "travel": "Travel speed",
    "more": "More joint details",
}
WORDS = (*MEMBERS, *_TITLES)


class Editor(Struct, frozen=True):
    """The panel of one word."""

    word: str
    label: str
    fields: tuple[Field, ...]
    same: bool = False
    third: str = ""


def build_editors(joint: Joint, habit: str) -> list[Editor]:
    """An editor for every word of the sentence. Parameters: joint; habit, "mm" or "in"."""
    made = [_build_member_editor(i, m, joint, habit) for i, m in enumerate(joint.members)]
    for word, title in _TITLES.items():
        here = [(key, e) for key, e in read_entries(Joint).items() if word in _list_words(e, joint)]
        fields = [
            replace(f, prefix=f.prefix + _repeat_word(key, word))
            for key, e in here
            for f in _build_fields(key, e, joint, habit)
        ]
        if fields:
            made.append(Editor(word, title, tuple(fields)))
    return made


def list_shown_texts(joint: Joint, habit: str) -> dict[str, tuple[str, ...]]:
    """What the fields of a joint show, by key of its link: a form that gives these changes
    nothing.
    """
    found: dict[str, tuple[str, ...]] = {}
    for key, declared in read_entries(Joint).items():
        value = getattr(joint, read_attributes(Joint)[key])
        if declared.kind != "length":
            name = (
                value.key
                if declared.kind == "row"
                else _build_field(key, declared, value, habit).value
            )
            found[key] = (name, "") if value == declared.usual else (name,)
    for editor in build_editors(joint, habit):
        for f in editor.fields:
            found[f.key] = (*found.get(f.key, ()), f.value)
    for name, pin in PINS.items():
        found[f"pins.{name}"] = (pin_shown(joint.pins.get(name, None), pin, habit),)
    return found


def pin_shown(value: Any, pin: Pin, habit: str) -> str:
    """A value as it is typed: without its unit."""
    if value is None:
        return ""
    return str(value) if pin.by_hand.allowed else Quantity(value, pin.quantity).number(habit)


def _list_words(declared: Entry, joint: Joint) -> tuple[str, ...]:
    """The words a field is changed at: a travel that was typed has a word of its own in the
    sentence besides.
    """
    if declared.word == "travel":
        return ("more",) if joint.travel_mm_s is None else ("more", "travel")
    return (declared.word,)


def _repeat_word(key: str, word: str) -> str:
    return "more-" if word == "more" and key == "travel_mm_s" else ""


def _build_fields(key: str, declared: Entry, joint: Joint, habit: str) -> list[Field]:
    value = getattr(joint, read_attributes(Joint)[key])
    made = _build_field(key, declared, value, habit)
    if key == "position":
        tube = joint.members[0].form == "tube"
        options = [
            o
            for o in made.options
            if tube or not declared.rows or not declared.rows()[o.value].has("fixed_tube")
        ]
        return [replace(made, options=tuple(options))]
    if key == "leg" and joint.kind.deposit != "fillet":
        return []
    if key == "reach":
        own = (
            "to suit the cup"
            if joint.kind.has("inner")
            else f"{length(joint.kind.reach_mm).text(habit)} for this joint"
        )
        return [replace(made, hint=f"Leave empty to use {own}")]
    if key == "length" and joint.members[0].form == "tube":
        whole = _build_chips(
            key,
            "Seam",
            ALL_ROUND if joint.all_round else "part",
            (Choice(ALL_ROUND, "all round the tube"),),
        )
        return [whole, replace(made, value="" if joint.all_round else made.value)]
    return [made]


def _build_field(key: str, declared: Entry, value: Any, habit: str) -> Field:
    text = Field(key, declared.label, hint=declared.hint, most=120, prefix="text-")
    if declared.kind == "length" and value is not None:
        return replace(
            text, value="0" if value.mm == 0 else value.typed, note=_format_shown(value, habit)
        )
    if declared.kind == "number" and value is not None:
        units = declared.quantity == "speed"
        shown = Quantity(value, declared.quantity).text(habit) if units else format_plain(value, 6)
        return replace(text, value=shown)
    if declared.kind in ("length", "number", "text"):
        return replace(text, value=value or "")
    chosen = value.key if declared.kind == "row" else value
    return _build_chips(key, declared.label, chosen, list_choices(declared))


def _build_chips(key: str, label: str, value: str, options: tuple[Choice, ...]) -> Field:
    return Field(key, label, value, "chips", options=options, prefix="pick-")


def _build_member_editor(index: int, member: Member, joint: Joint, habit: str) -> Editor:
    name, table = MEMBERS[index], read_entries(Member)
    order = ("thickness", *(("diameter",) if member.diameter else ()), "metal", "form", "coating")
    fields = [
        _build_field(f"{name}.{key}", table[key], getattr(member, key), habit) for key in order
    ]
    if member.form == "tube":
        fields[0] = replace(fields[0], label="Wall")
    if member.form == "rod":
        fields[0] = replace(fields[0], label="Diameter")
    runs_through = index == 1 and joint.kind.through_arms == 2
    third = (
        "drop"
        if index == 2
        else "add"
        if index == 1 and len(joint.members) == 2 and joint.kind.forms == "sheet"
        else ""
    )
    label = f"{_ORDINAL[index]} member" + (" (header)" if runs_through else "")
    return Editor(
        name, label, tuple(fields), same=index == 1 and member != joint.members[0], third=third
    )


def _format_shown(value: Length, habit: str) -> str:
    text = length(value.mm).text(habit)
    if not value.scale:
        return "" if value.mm == 0 or text == value.typed else f"= {text}"
    others = ", ".join(f"{label} {length(mm).text(habit)}" for label, mm in value.others)
    return f"= {text} by the {value.scale} gauge" + (f"; {others}" if others else "")
