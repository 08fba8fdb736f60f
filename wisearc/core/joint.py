"""The joint: what the welder knows when he walks to the bench, checked as a whole.

`make_joint` takes the plain data of a joint file or a link and gives a Joint whose values can be
relied on by everything after it. Lengths come as `NAME_mm` numbers or `NAME` text.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from . import catalogue, checks
from .errors import BadInput
from .pins import PINS, Pin, make_pins
from .quantities import Length, parse_length, scale_for

FORMS = ("sheet", "tube", "rod", "bar", "flange")
COATINGS = ("none", "zinc", "paint", "plating")
ROD_SCHOOLS = ("under-sheet", "equals-sheet")
TIP_SCHOOLS = ("table", "needle")
SETTING_SCHOOLS = ("headroom", "ride")
GAS_SCHOOLS = ("full", "frugal")
BACKS = ("purge", "copper-bar", "aluminium-bar", "steel-bar", "flux", "open")
FINISHES = ("show", "sound")
SERVICES = ("dry", "wet", "food", "hot", "structural")
CONTROLS = ("pedal", "slide", "none")
BACK_ACCESS = ("reached", "closed")
SHEET_FORMS = ("sheet", "bar", "rod", "flange")
HEAVY_FORMS = ("rod", "bar", "flange")

_CHOICES: dict[str, tuple[tuple[str, ...], str]] = {
    "rod_school": (ROD_SCHOOLS, "under-sheet"),
    "tip_school": (TIP_SCHOOLS, "table"),
    "setting_school": (SETTING_SCHOOLS, "headroom"),
    "gas_school": (GAS_SCHOOLS, "full"),
    "back": (("auto", *BACKS), "auto"),
    "back_access": (BACK_ACCESS, "reached"),
    "finish": (FINISHES, "show"),
    "service": (SERVICES, "dry"),
    "control": (CONTROLS, "pedal"),
}
_MEMBER_KEYS = ("metal", "form", "thickness", "thickness_mm", "diameter", "diameter_mm", "coating")
_LENGTHS = ("length", "gap", "reach")
_KEYS = (
    "title", "joint", "position", "members", "angle_deg", "filler", "pulse", "overlap_pct",
    "travel_mm_s", "part_mass_g", "pins", *_CHOICES, *_LENGTHS, *(f"{n}_mm" for n in _LENGTHS),
)  # fmt: skip


@dataclass(frozen=True)
class Member:
    """One piece: metal, form, thickness or wall, a tube's outside diameter, what coats it."""

    metal: catalogue.Metal
    form: str
    thickness: Length
    diameter: Length | None = None
    coating: str = "none"

    @property
    def thickness_mm(self) -> float:
        return self.thickness.mm

    @property
    def diameter_mm(self) -> float | None:
        return self.diameter.mm if self.diameter else None


@dataclass(frozen=True)
class Joint:
    """A joint whose values have been checked. Lengths mm, angle °, travel mm/s, mass g.

    The second member is the one that runs through in a tee, lap, tube to plate and coped tube.
    """

    kind: catalogue.JointKind
    members: tuple[Member, ...]
    position: catalogue.Position
    length: Length
    all_round: bool
    gap: Length
    reach: Length | None
    title: str = ""
    angle_deg: float = 90.0
    filler: str = "auto"
    pulse: str = "auto"
    rod_school: str = "under-sheet"
    tip_school: str = "table"
    setting_school: str = "headroom"
    gas_school: str = "full"
    overlap_pct: float | None = None
    back: str = "auto"
    back_access: str = "reached"
    finish: str = "show"
    service: str = "dry"
    control: str = "pedal"
    travel_mm_s: float | None = None
    part_mass_g: float | None = None
    pins: Mapping[str, Pin] = field(default_factory=dict)

    @property
    def gap_mm(self) -> float:
        return self.gap.mm

    @property
    def metals(self) -> tuple[catalogue.Metal, ...]:
        return tuple(m.metal for m in self.members)

    @property
    def remote(self) -> bool:
        """Whether the current can be held back while welding."""
        return self.control != "none"

    def pin(self, name: str) -> Any:
        """The value pinned by hand, or None."""
        found = self.pins.get(name)
        return found.value if found else None


def make_joint(data: Mapping[str, Any]) -> Joint:
    """Check plain data and make the Joint.

    Parameters: data, the keys of a joint file without `format` and `version`.
    Returns Joint. Raises BadInput (UnknownName, OutOfRange) naming the key, value and rule.

    >>> sheet = {"metal": "304L", "thickness": "16 ga"}
    >>> make_joint({"joint": "butt", "members": [sheet, sheet]}).members[0].thickness_mm
    1.5875
    """
    for key in data:
        if key not in _KEYS:
            raise BadInput(key, data[key], "is not a key of a joint; allowed are " + ", ".join(sorted(_KEYS)))
    kinds = catalogue.joint_kinds()
    kind = kinds[checks.name("joint", data.get("joint"), kinds)]
    members = _members(data.get("members"))
    position = catalogue.positions()[checks.name("position", data.get("position", "flat"), catalogue.positions())]
    _check_forms(kind, members)
    all_round = data.get("length") == "all-round"
    values: dict[str, Any] = {
        key: checks.name(key, data.get(key, default), allowed) for key, (allowed, default) in _CHOICES.items()
    }
    title = data.get("title", "")
    if not isinstance(title, str) or len(title) > 120:
        raise BadInput("title", str(title)[:40], "must be text of at most 120 characters")
    joint = Joint(
        kind=kind, members=members, position=position, title=title, all_round=all_round,
        length=_seam_length(data, all_round, members),
        gap=_length_of(data, "gap", 0.0, 10.0) or Length(0.0, "0 mm"),
        reach=_length_of(data, "reach", 0.0, 60.0),
        angle_deg=_angle(kind, data.get("angle_deg")),
        filler=checks.name("filler", data.get("filler", "auto"), ["auto", "none", *catalogue.rods()]),
        pulse=checks.name("pulse", data.get("pulse", "auto"), ["auto", *catalogue.pulse_schools()]),
        overlap_pct=_maybe(data, "overlap_pct", 25, 80, "%"),
        travel_mm_s=_maybe(data, "travel_mm_s", 0.3, 20, "mm/s"),
        part_mass_g=_maybe(data, "part_mass_g", 1, 1e6, "g"),
        pins=make_pins(data.get("pins", {})),
        **values,
    )  # fmt: skip
    _check_whole(joint)
    return joint


def joint_from_kept(data: Mapping[str, Any]) -> Joint:
    """The Joint of a joint file's data that was checked when it was kept: format, version and nulls left aside."""
    return make_joint({k: v for k, v in data.items() if k not in ("format", "version") and v is not None})


def _maybe(data: Mapping[str, Any], key: str, low: float, high: float, unit: str) -> float | None:
    value = data.get(key)
    return None if value is None else checks.number(key, value, low, high, unit)


def _angle(kind: catalogue.JointKind, value: Any) -> float:
    if value is None:
        return 90.0
    high = 90 if kind.key == "tube-cope" else 170
    return checks.number("angle_deg", value, 20, high, "°")


def _members(raw: Any) -> tuple[Member, ...]:
    if not isinstance(raw, list | tuple) or not 2 <= len(raw) <= 3:
        raise BadInput("members", "" if raw is None else raw, "must be a list of two or three members")
    return tuple(_member(f"members[{i}]", item) for i, item in enumerate(raw))


def _member(where: str, raw: Any) -> Member:
    if not isinstance(raw, Mapping):
        raise BadInput(where, raw, "must be an object with metal, form and thickness")
    for key in raw:
        if key not in _MEMBER_KEYS:
            raise BadInput(
                f"{where}.{key}", raw[key], "is not a key of a member; allowed are " + ", ".join(_MEMBER_KEYS)
            )
    metal = catalogue.metals()[checks.name(f"{where}.metal", raw.get("metal"), catalogue.metals())]
    form = checks.name(f"{where}.form", raw.get("form", "sheet"), FORMS)
    coating = checks.name(f"{where}.coating", raw.get("coating", "none"), COATINGS)
    high = 50.0 if form in HEAVY_FORMS else 6.0
    thickness = _length_of(raw, "thickness", 0.3, high, where, scale_for(metal.kind, form, coating))
    if thickness is None:
        raise BadInput(f"{where}.thickness", "", "is missing; type a thickness such as 1.6 mm, 16 ga or .065")
    diameter = _length_of(raw, "diameter", 3.0, 1000.0, where)
    if form == "tube":
        if diameter is None:
            raise BadInput(
                f"{where}.diameter",
                "",
                "is missing: a tube also needs its outside diameter, such as 25 mm or 1 in",
            )
        if thickness.mm > diameter.mm * 0.45:
            raise BadInput(
                f"{where}.thickness",
                thickness.typed,
                f"must be less than 0.45 of the tube's diameter of {diameter.mm:g} mm",
            )
    elif diameter is not None:
        raise BadInput(f"{where}.diameter", diameter.typed, f"belongs to a tube; this member is a {form}")
    return Member(metal, form, thickness, diameter, coating)


def _length_of(
    data: Mapping[str, Any], key: str, low: float, high: float, where: str = "", scale: str = "stainless"
) -> Length | None:
    name = f"{where}.{key}" if where else key
    text, mm = data.get(key), data.get(f"{key}_mm")
    if text is not None and mm is not None:
        raise BadInput(name, text, f"is given twice, as {key} and {key}_mm; give one of them")
    if mm is not None:
        value = checks.number(f"{name}_mm", mm, low, high, "mm")
        return Length(value, f"{value:g} mm")
    if text is None:
        return None
    if not isinstance(text, str):
        raise BadInput(name, text, f"must be text with its unit, such as “1.6 mm”; a number goes in {key}_mm")
    parsed = parse_length(text, name, scale)
    if not low <= parsed.mm <= high:
        nearest = f"{low if parsed.mm < low else high:g} mm"
        raise BadInput(name, text, f"is {parsed.mm:g} mm; must be from {low:g} to {high:g} mm", nearest)
    return parsed


def _seam_length(data: Mapping[str, Any], all_round: bool, members: tuple[Member, ...]) -> Length:
    if not all_round:
        return _length_of(data, "length", 1.0, 20000.0) or Length(100.0, "100 mm")
    if data.get("length_mm") is not None:
        raise BadInput("length", "all-round", "is given twice, as length and length_mm; give one of them")
    if members[0].form != "tube":
        raise BadInput("length", "all-round", "is for tubes; give the length of the seam, such as 380 mm or 15 in")
    return Length(0.0, "all-round")


def _check_forms(kind: catalogue.JointKind, members: tuple[Member, ...]) -> None:
    first, second = members[0].form, members[1].form
    for i, member in enumerate(members):
        where = f"members[{i}].form"
        if kind.forms == "sheet" and member.form not in SHEET_FORMS:
            near = "tube-plate" if second != "tube" or first != "tube" else "tube-butt"
            raise BadInput(
                "joint",
                kind.key,
                f"joins sheet, bar, rod and flange, and member {i + 1} is a tube; a tube takes tube-butt, tube-plate or tube-cope",
                near,
            )
        if kind.forms == "tube" and member.form != "tube":
            raise BadInput(where, member.form, f"must be tube in a {kind.key} joint", "tube")
    if kind.forms == "tube-plate":
        if first != "tube":
            raise BadInput("members[0].form", first, "must be tube: in tube-plate the first member is the tube", "tube")
        if second == "tube":
            raise BadInput(
                "members[1].form",
                second,
                "must be sheet, flange or bar in tube-plate; two tubes take tube-butt or tube-cope",
                "flange",
            )


def _check_whole(joint: Joint) -> None:
    first, second = joint.members[0], joint.members[1]
    if joint.kind.key == "tube-cope" and first.diameter and second.diameter and first.diameter.mm > second.diameter.mm:
        raise BadInput(
            "members[0].diameter",
            first.diameter.typed,
            f"must not be wider than the run it is coped to, {second.diameter.mm:g} mm",
            f"{second.diameter.mm:g} mm",
        )
    if joint.kind.key == "tube-butt" and first.diameter and second.diameter:
        apart = abs(first.diameter.mm - second.diameter.mm)
        if apart > 2 * min(first.thickness_mm, second.thickness_mm):
            raise BadInput(
                "members[1].diameter",
                second.diameter.typed,
                f"must be within a wall of {first.diameter.mm:g} mm for tubes in line",
                f"{first.diameter.mm:g} mm",
            )
    if min(m.thickness_mm for m in joint.members) > 6.0:
        raise BadInput(
            "members",
            "all thicker than 6 mm",
            "one member must be 6 mm or thinner; this plans thin-gauge joints",
        )
    if joint.position.key == "fixed-tube" and first.form != "tube":
        raise BadInput(
            "position",
            "fixed-tube",
            "is for tubes; sheet lies flat, horizontal, vertical-up, vertical-down or overhead",
            "flat",
        )
    if joint.pulse == "pedal" and not joint.remote:
        raise BadInput("pulse", "pedal", "needs a pedal or torch slide; with control none pick another school", "none")


KNOWN_PINS = tuple(PINS)
