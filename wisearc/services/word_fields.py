"""What each word of the sentence offers when it is opened: fields with their choices, for the template."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..core import catalogue
from ..core import joint as joints
from ..core.joint import Joint, Member
from ..core.quantities import Length, length, speed
from ..formats import joint_words as words
from ..formats.link import MEMBERS

_ORDINAL = ("First", "Second", "Third")
_FORM_WORDS = {"sheet": "sheet", "tube": "tube", "rod": "round rod", "bar": "bar", "flange": "flange"}
_FINISH_NOTES = {"show": "Both faces are seen: colour matters.", "sound": "Colour does not matter."}


@dataclass(frozen=True)
class Option:
    """One choice of a field."""

    value: str
    label: str
    note: str = ""


@dataclass(frozen=True)
class Field:
    """A field of an editor: a list of options, or text when there are none."""

    key: str
    label: str
    value: str
    options: list[Option] = field(default_factory=list)
    note: str = ""
    hint: str = ""

    @property
    def html_id(self) -> str:
        kind = "pick" if self.options else "text"
        return f"{kind}-" + self.key.replace(".", "-").replace("_", "-")


@dataclass(frozen=True)
class Editor:
    """The panel of one word."""

    word: str
    label: str
    fields: list[Field]
    same: bool = False
    third: str = ""


def editors_for(joint: Joint, habit: str) -> list[Editor]:
    """An editor for every word of the sentence. Parameters: joint; habit, "mm" or "in"."""
    made = [_member_editor(i, m, joint, habit) for i, m in enumerate(joint.members)]
    made += [
        Editor("joint", "Joint", [Field("joint", "Kind of joint", joint.kind.key, [Option(k.key, k.name, k.note) for k in catalogue.joint_kinds().values()])]),
        Editor("angle", "Angle", [Field("angle_deg", "Angle between the members, °", f"{joint.angle_deg:g}", hint="90, or from 20 for a cope")]),
        _length_editor(joint, habit),
        Editor("position", "Position", [Field("position", "Position", joint.position.key, _positions(joint))]),
        Editor("gap", "Gap", [Field("gap", "Gap as found", _typed(joint.gap, habit), note=_shown(joint.gap, habit), hint="0, or 0.2 mm, .010")]),
        Editor("purpose", "What the weld is for", [
            Field("finish", "For", joint.finish, [Option(k, v, _FINISH_NOTES[k]) for k, v in words.FINISH_WORDS.items()]),
            Field("service", "In", joint.service, [Option(k, v) for k, v in words.SERVICE_WORDS.items()]),
        ]),
        Editor("access", "The back", [Field("back_access", "The back", joint.back_access, [
            Option("reached", "can be reached", "Bars can be clamped behind."),
            Option("closed", "is closed off", "Only argon gets in: purge."),
        ])]),
        Editor("control", "Current control", [Field("control", "Current by", joint.control, [Option(k, v) for k, v in words.CONTROL_WORDS.items()])]),
        *([Editor("travel", "Travel speed", [_travel_field(joint, habit)])] if joint.travel_mm_s is not None else []),
        _more_editor(joint, habit),
    ]  # fmt: skip
    return made


def _member_editor(index: int, member: Member, joint: Joint, habit: str) -> Editor:
    name = MEMBERS[index]
    fields = [
        Field(f"{name}.thickness", "Wall" if member.form == "tube" else "Thickness", _typed(member.thickness, habit), note=_shown(member.thickness, habit), hint="16 ga, .065, 1/16, 1.5 mm"),
        Field(f"{name}.metal", "Metal", member.metal.key, [Option(m.key, m.name, m.note) for m in catalogue.metals().values()]),
        Field(f"{name}.form", "Form", member.form, [Option(f, _FORM_WORDS[f]) for f in joints.FORMS]),
    ]  # fmt: skip
    if member.diameter:
        fields.insert(
            1,
            Field(
                f"{name}.diameter",
                "Outside diameter",
                _typed(member.diameter, habit),
                note=_shown(member.diameter, habit),
                hint="25 mm, 1 in, 1-1/2",
            ),
        )
    fields.append(
        Field(
            f"{name}.coating",
            "On the surface",
            member.coating,
            [
                Option("none", "bare metal"),
                Option("zinc", "zinc"),
                Option("paint", "paint"),
                Option("plating", "plating"),
            ],
        )
    )
    label = f"{_ORDINAL[index]} member" + (" (runs through)" if index == 1 and joint.kind.through_arms == 2 else "")
    third = (
        "drop"
        if index == 2
        else "add"
        if index == 1 and len(joint.members) == 2 and joint.kind.forms == "sheet"
        else ""
    )
    return Editor(name, label, fields, same=index == 1 and member != joint.members[0], third=third)


def _length_editor(joint: Joint, habit: str) -> Editor:
    fields = []
    if joint.members[0].form == "tube":
        fields.append(
            Field(
                "length",
                "Seam",
                "all-round" if joint.all_round else "part",
                [Option("all-round", "all round the tube")],
            )
        )
    value = "" if joint.all_round else _typed(joint.length, habit)
    fields.append(
        Field(
            "length",
            "Length of the seam",
            value,
            note="" if joint.all_round else _shown(joint.length, habit),
            hint="380 mm, 15 in",
        )
    )
    return Editor("length", "Length", fields)


def _positions(joint: Joint) -> list[Option]:
    tube = joint.members[0].form == "tube"
    return [Option(p.key, p.name, p.note) for p in catalogue.positions().values() if tube or p.key != "fixed-tube"]


def _more_editor(joint: Joint, habit: str) -> Editor:
    reach = "" if joint.reach is None else _typed(joint.reach, habit)
    return Editor("more", "More about this joint", [
        Field("title", "Title", joint.title, hint="for your lists, such as Lid rim, long side"),
        *([_travel_field(joint, habit)] if joint.travel_mm_s is None else []),
        Field("reach", "How far the tungsten must reach", reach, note="" if joint.reach is None else _shown(joint.reach, habit), hint=f"empty: {length(joint.kind.reach_mm).text(habit)} for this joint"),
        Field("part_mass_g", "Mass of a small part, g", "" if joint.part_mass_g is None else f"{joint.part_mass_g:g}", hint="empty: not a small part"),
        Field("overlap_pct", "Overlap of the ripple, %", "" if joint.overlap_pct is None else f"{joint.overlap_pct:g}", hint="empty: 35; many say 50"),
    ])  # fmt: skip


def _travel_field(joint: Joint, habit: str) -> Field:
    value = "" if joint.travel_mm_s is None else speed(joint.travel_mm_s).text(habit)
    return Field("travel_mm_s", "Travel speed", value, hint="empty: as planned; or 3.4 mm/s, 8 in/min")


def _typed(value: Length, habit: str) -> str:
    if value.mm == 0:
        return "0"
    return value.typed if value.scale else length(value.mm).text(habit)


def _shown(value: Length, habit: str) -> str:
    if not value.scale:
        return ""
    others = ", ".join(f"{label} {length(mm).text(habit)}" for label, mm in value.others.items())
    return f"= {length(value.mm).text(habit)} by the {value.scale} gauge" + (f"; {others}" if others else "")
