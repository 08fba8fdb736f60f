"""The editor of each word of the sentence: its fields, from the table of the joint."""

from __future__ import annotations

from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from ..core import catalogue
from ..core.joint.joint import ALL_ROUND, Joint, Member
from ..core.joint.rules import find_only_choice
from ..core.plan.pins import PINS, Pin
from ..core.quantities import Quantity, format_plain, length
from ..core.schema.entries import Entry, read_attributes, read_entries
from ..core.typed_quantities import (
    Length,
    find_nearest_gauge,
    is_typed_in_inches,
    scale_for,
)
from ..formats.link import MEMBERS
from .fields import Choice, Field, list_choices

FILLET = "fillet"
# A gauge within this share of a thickness is named: estimate, half a step of the scales. Within
# this many mm it is the same, because three digits of an inch show no difference.
MAX_GAUGE_SHARE, SAME_GAUGE_MM = 0.12, 0.005
_ORDINAL = ("First", "Second", "Third")
# The words in the order of the sentence, with the titles of their editors.
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
KEYS = (*MEMBERS, *_TITLES)


class Editor(Struct, frozen=True):
    """The editor of one word."""

    word: str
    label: str
    fields: tuple[Field, ...]
    same: bool = False
    third: str = ""


def build_editors(joint: Joint, units: str) -> list[Editor]:
    """Return an editor for every word of the sentence.

    Args:
        joint: The joint.
        units: Unit system, "mm" or "in".
    """
    editors = [_build_member_editor(i, m, joint, units) for i, m in enumerate(joint.members)]
    for word, title in _TITLES.items():
        entries = [
            (key, e)
            for key, e in read_entries(Joint).items()
            if word in _list_choice_keys(e, joint)
        ]
        fields = [
            replace(f, prefix=f.prefix + _repeat_word(key, word))
            for key, e in entries
            for f in _build_fields(key, e, joint, units)
        ]
        if fields:
            editors.append(Editor(word, title, tuple(fields)))
    return editors


def list_shown_texts(joint: Joint, units: str) -> dict[str, tuple[str, ...]]:
    """Return the displayed texts of the fields by link key.

    A form that sends them changes nothing.

    Args:
        joint: The joint.
        units: Unit system.
    """
    texts: dict[str, tuple[str, ...]] = {}
    for key, declared in read_entries(Joint).items():
        value = getattr(joint, read_attributes(Joint)[key])
        if declared.kind != "length":
            name = (
                value.key
                if declared.kind == "row"
                else _build_field(key, declared, value, units).value
            )
            texts[key] = (name, "") if value == declared.usual else (name,)
    for editor in build_editors(joint, units):
        for f in editor.fields:
            texts[f.key] = (*texts.get(f.key, ()), f.value)
    for name, pin in PINS.items():
        texts[f"pins.{name}"] = (format_pin(joint.pins.get(name, None), pin, units),)
    return texts


def format_pin(value: Any, pin: Pin, units: str) -> str:
    """Return a manual value for its field, without unit.

    Args:
        value: The value.
        pin: Its declaration.
        units: Unit system.
    """
    if value is None:
        return ""
    return str(value) if pin.by_hand.allowed else Quantity(value, pin.quantity).number(units)


def _list_choice_keys(declared: Entry, joint: Joint) -> tuple[str, ...]:
    """Return the words in which a field can be changed.

    A typed travel speed has a further word of the sentence.
    """
    if declared.word == "travel":
        return ("more",) if joint.travel_mm_s is None else ("more", "travel")
    return (declared.word,)


def _repeat_word(key: str, word: str) -> str:
    return "more-" if word == "more" and key == "travel_mm_s" else ""


def _build_fields(key: str, declared: Entry, joint: Joint, units: str) -> list[Field]:
    value = getattr(joint, read_attributes(Joint)[key])
    field = _build_field(key, declared, value, units)
    if key == "position":
        tube = joint.members[0].form == "tube"
        options = [
            o
            for o in field.options
            if tube or not declared.rows or not declared.rows()[o.value].has("fixed_tube")
        ]
        is_fillet = joint.kind.deposit == FILLET
        codes = {key: row.get_code(is_fillet) for key, row in catalogue.load_positions().items()}
        options = [Choice(o.value, f"{o.label} ({codes[o.value]})", o.note) for o in options]
        return [replace(field, options=tuple(options))]
    if only := find_only_choice(joint, key):
        possible = tuple(option for option in field.options if option.value == only)
        return [replace(field, value=only, options=possible)]
    if key == "leg" and joint.kind.deposit != FILLET:
        return []
    if declared.for_trait and not joint.kind.has(declared.for_trait):
        return []
    if key == "length" and joint.kind.has("stud"):
        return []
    if key == "reach":
        default_text = (
            "to suit the cup"
            if joint.kind.has("inner")
            else f"{length(joint.kind.reach_mm).text(units)} for this joint"
        )
        return [replace(field, hint=f"Leave empty to use {default_text}")]
    if key == "length" and joint.members[0].form == "tube":
        seam_chips = _build_chips(
            key,
            "Seam",
            ALL_ROUND if joint.all_round else "part",
            (Choice(ALL_ROUND, "all round the tube"),),
        )
        return [seam_chips, replace(field, value="" if joint.all_round else field.value)]
    return [field]


def _build_field(key: str, declared: Entry, value: Any, unit_system: str) -> Field:
    text = Field(key, declared.label, hint=declared.hint, most=120, prefix="text-")
    if declared.kind == "length" and value is not None:
        return replace(
            text,
            value="0" if value.mm == 0 else value.typed,
            note=_format_length(value, unit_system),
        )
    if declared.kind == "number" and value is not None:
        units = declared.quantity == "speed"
        displayed = (
            Quantity(value, declared.quantity).text(unit_system)
            if units
            else format_plain(value, 6)
        )
        return replace(text, value=displayed)
    if declared.kind in ("length", "number", "text"):
        return replace(text, value=value or "")
    chosen = value.key if declared.kind == "row" else value
    return _build_chips(key, declared.label, chosen, list_choices(declared))


def _build_chips(key: str, label: str, value: str, options: tuple[Choice, ...]) -> Field:
    return Field(key, label, value, "chips", options=options, prefix="pick-")


def _build_member_editor(index: int, member: Member, joint: Joint, units: str) -> Editor:
    name, table = MEMBERS[index], read_entries(Member)
    order = ("thickness", *(("diameter",) if member.diameter else ()), "metal", "form", "coating")
    fields = [
        _build_field(f"{name}.{key}", table[key], getattr(member, key), units) for key in order
    ]
    if not member.thickness.scale and (nearest := _describe_gauge(member, units)):
        fields[0] = replace(
            fields[0], note="; ".join(note for note in (fields[0].note, nearest) if note)
        )
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


def _describe_gauge(member: Member, units: str) -> str:
    """Return the nearest gauge of the scale of a member in inches, with its difference."""
    if not is_typed_in_inches(member.thickness.typed, units):
        return ""
    scale = scale_for(member.metal.kind, member.form, member.coating)
    number, mm = find_nearest_gauge(member.thickness_mm, scale)
    difference = member.thickness_mm - mm
    if abs(difference) > MAX_GAUGE_SHARE * mm:
        return ""
    name = f"{number} ga by the {catalogue.load_gauge_scales()[scale].label} gauge"
    if abs(difference) < SAME_GAUGE_MM:
        return f"= {name}"
    side = "thicker" if difference > 0 else "thinner"
    return f"{length(abs(difference)).text('in')} {side} than {name}"


def _format_length(value: Length, units: str) -> str:
    text = length(value.mm).text(units)
    if not value.scale:
        return "" if value.mm == 0 or text == value.typed else f"= {text}"
    others = ", ".join(f"{label} {length(mm).text(units)}" for label, mm in value.others)
    return f"= {text} by the {value.scale} gauge" + (f"; {others}" if others else "")
