"""Rules for a complete joint: allowed forms, diameters, and values that exclude each other."""

from __future__ import annotations

import math

from ..errors import InputError, OutOfRange
from ..quantities import exact
from ..reasons import Sentence
from .joint import FORMS, SHEET_FORMS, Joint, Member

PLATE_FORMS, STUD_FORMS = ("sheet", "bar", "flange"), ("rod", "bar")
MAX_THINNEST_MM = 6.0
MAX_COPE_DEG, MAX_SHEET_DEG, MIN_MITRE_DEG = 90.0, 170.0, 40.0
# A thinner stud melts away before it joins.
MIN_STUD_MM = 0.8
# The maximum number of tacks in a plan: an estimate of a useful list. The spacing alone would give
# 1667 on 20 m.
MAX_TACKS = 2000
MAX_WALL_SHARE = 0.45


def find_only_choice(joint: Joint, key: str) -> str:
    """Return the only possible value of a field of a joint, or "".

    Args:
        joint: The joint.
        key: The field.
    """
    # Nothing but argon gets behind the seam of a tube.
    return "closed" if key == "back_access" and joint.kind.has("closed_back") else ""


def check_member(where: str, member: Member) -> None:
    """Check a member.

    Args:
        where: Key of the member for the error.
        member: The member.

    Raises:
        InputError: The member is impossible. The error names the key.
    """
    thickness, diameter = member.thickness, member.diameter
    if member.form == "tube":
        if diameter is None:
            text = "is missing. A tube also needs its outside diameter, such as 25 mm or 1 in"
            raise InputError(f"{where}.diameter", "", text)
        if thickness.mm > diameter.mm * MAX_WALL_SHARE:
            text = "must be less than {share} of the tube diameter of {d}"
            rule = Sentence(text, share=f"{MAX_WALL_SHARE:g}", d=exact(diameter.mm))
            raise InputError(f"{where}.thickness", thickness.typed, rule)
    elif diameter is not None:
        raise InputError(
            f"{where}.diameter",
            diameter.typed,
            f"belongs to a tube, but this member is a {FORMS[member.form]}",
        )


def check_joint(joint: Joint) -> None:
    """Check a complete joint.

    Raises:
        InputError: The joint is impossible. The error names the key and the nearest possible value.
    """
    _check_forms(joint)
    first = joint.members[0]
    if joint.all_round and first.form != "tube" and not joint.kind.has("stud"):
        raise InputError(
            "length",
            "all-round",
            "is for tubes. Give the length of the seam, such as 380 mm or 15 in",
        )
    _check_angle(joint)
    _check_diameters(joint)
    if joint.leg is not None and joint.kind.deposit != "fillet":
        text = (
            f"is for fillets, and {joint.kind.phrase} has none. Leave it empty, or choose "
            "a lap, tee or inside corner"
        )
        raise InputError("leg", joint.leg.typed, text)
    if min(m.thickness_mm for m in joint.members) > MAX_THINNEST_MM:
        rule = Sentence(
            ("is too thick: one member must be {most} or thinner. These rules are for thin sheet"),
            most=exact(MAX_THINNEST_MM),
        )
        raise InputError("members", "all too thick", rule)
    if joint.position.has("fixed_tube") and first.form != "tube":
        text = (
            "is for tubes. Choose flat, horizontal, vertical up, vertical down or "
            "overhead for sheet"
        )
        raise InputError("position", joint.position.key, text, "flat")
    pitch: float | None = joint.pins.get("tack_pitch_mm", None)
    if pitch and joint.length.mm / pitch > MAX_TACKS - 1:
        minimum = math.ceil(joint.length.mm / (MAX_TACKS - 1))
        text = (
            "gives more than {n} tacks on {seam} of seam. Enter at least {least}, or "
            "plan the seam in parts"
        )
        rule = Sentence(text, n=MAX_TACKS, seam=exact(joint.length.mm), least=exact(minimum))
        raise InputError("pins.tack_pitch_mm", pitch, rule, f"{minimum} mm")
    if joint.pulse == "pedal" and not joint.remote:
        raise InputError(
            "pulse",
            "pedal",
            (
                "needs a pedal or torch slide. Choose another pulse for a torch without "
                "remote control"
            ),
            "none",
        )


def _check_angle(joint: Joint) -> None:
    if joint.kind.has("mitred"):
        if joint.angle_deg < MIN_MITRE_DEG:
            text = (
                "is too sharp for a mitre: the cup does not reach the inside of the bend. Use at "
                f"least {MIN_MITRE_DEG:g}°, or join the tubes as a cope"
            )
            raise InputError("angle_deg", f"{joint.angle_deg:g}°", text, f"{MIN_MITRE_DEG:g}")
        return
    maximum = MAX_COPE_DEG if joint.kind.has("cope") else MAX_SHEET_DEG
    if joint.angle_deg > maximum:
        raise OutOfRange("angle_deg", joint.angle_deg, 20, maximum, "°")


def _check_stud(joint: Joint) -> None:
    """Check the forms and the size of a stud in a plate."""
    plate, stud = joint.members[0], joint.members[1]
    if plate.form not in PLATE_FORMS:
        text = "must be sheet, bar or flange: the first member of a stud joint has the hole"
        raise InputError("members[0].form", plate.form, text, "sheet")
    if stud.form not in STUD_FORMS:
        text = "must be rod or bar: the second member of a stud joint passes through the hole"
        raise InputError("members[1].form", stud.form, text, "rod")
    if stud.thickness_mm < MIN_STUD_MM - 1e-9:
        rule = Sentence(
            "is too thin for a stud, which would melt away. Use at least {least}",
            least=exact(MIN_STUD_MM),
        )
        raise InputError("members[1].thickness", stud.thickness.typed, rule, f"{MIN_STUD_MM:g} mm")


def _check_forms(joint: Joint) -> None:
    kind, first, second = joint.kind, joint.members[0].form, joint.members[1].form
    if kind.forms == "stud":
        _check_stud(joint)
        return
    for i, member in enumerate(joint.members):
        if kind.forms == "sheet" and member.form not in SHEET_FORMS:
            near = "tube-plate" if second != "tube" or first != "tube" else "tube-butt"
            text = (
                f"joins sheet, bar, rod and flange, but member {i + 1} is a tube. Choose "
                "tube-butt, tube-mitre, tube-plate, tube-socket or tube-cope"
            )
            raise InputError("joint", kind.key, text, near)
        if kind.forms == "tube" and member.form != "tube":
            raise InputError(
                f"members[{i}].form", member.form, f"must be tube in a {kind.key} joint", "tube"
            )
    if kind.forms == "tube-plate":
        if first != "tube":
            raise InputError(
                "members[0].form",
                first,
                "must be tube: in a tube-plate joint the first member is the tube",
                "tube",
            )
        if second == "tube":
            text = (
                "must be sheet, flange or bar in a tube-plate joint. For two tubes choose "
                "tube-butt or tube-cope"
            )
            raise InputError("members[1].form", second, text, "flange")


def _check_diameters(joint: Joint) -> None:
    first, second = joint.members[0], joint.members[1]
    if first.diameter is None or second.diameter is None:
        return
    left, other = first.diameter, second.diameter
    if joint.kind.has("cope") and left.mm > other.mm:
        rule = Sentence("must not be wider than the header, {d}", d=exact(other.mm))
        raise InputError("members[0].diameter", left.typed, rule, f"{other.mm:g} mm")
    if joint.kind.has("in_line") and abs(left.mm - other.mm) > 2 * min(
        first.thickness_mm, second.thickness_mm
    ):
        rule = Sentence(
            "must be within one wall thickness of {d} for tubes in line", d=exact(left.mm)
        )
        raise InputError("members[1].diameter", other.typed, rule, f"{left.mm:g} mm")
