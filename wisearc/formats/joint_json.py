"""wisearc/joint ↔ Joint."""

from __future__ import annotations

import json
from typing import Any

from ..core.errors import BadInput
from ..core.joint import Joint, Member, joint_from_kept
from ..core.quantities import Length
from .schema import check

FORMAT = "wisearc/joint"
VERSION = 1
_PLAIN = (
    "position",
    "filler",
    "pulse",
    "rod_school",
    "tip_school",
    "setting_school",
    "gas_school",
    "back",
    "back_access",
    "finish",
    "service",
    "control",
)


def loads(text: str, kind: str = FORMAT) -> Any:
    """JSON text as data. Raises BadInput where it is not JSON, or holds NaN or infinities."""

    def refuse(constant: str) -> Any:
        raise BadInput("file", constant, "is not a number JSON knows; give a finite number")

    try:
        return json.loads(text, parse_constant=refuse)
    except json.JSONDecodeError as error:
        raise BadInput(
            "file",
            f"line {error.lineno}, column {error.colno}",
            f"is not JSON ({error.msg}); give a {kind} file",
        ) from error
    except RecursionError as error:
        raise BadInput("file", "too deep", f"is nested too deep; give a {kind} file") from error


def read_joint(data: Any) -> Joint:
    """A joint from the data of a joint file. Raises BadInput with key, value and what is allowed."""
    if not isinstance(data, dict):
        raise BadInput("file", type(data).__name__, f"must be one JSON object with “format”: “{FORMAT}”")
    check("joint", data)
    return joint_from_kept(data)


def write_joint(joint: Joint) -> dict[str, Any]:
    """The data of a joint file, every key written, lengths in the words they were typed in."""
    data: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "title": joint.title,
        "joint": joint.kind.key,
        "members": [_member(m) for m in joint.members],
        **_length("length", joint.length),
        **_length("gap", joint.gap),
        "angle_deg": joint.angle_deg,
    }
    if joint.reach is not None:
        data |= _length("reach", joint.reach)
    for key in _PLAIN:
        value = getattr(joint, key)
        data[key] = value.key if key == "position" else value
    data |= {
        "overlap_pct": joint.overlap_pct,
        "travel_mm_s": joint.travel_mm_s,
        "part_mass_g": joint.part_mass_g,
    }
    data["pins"] = {name: pin.value for name, pin in joint.pins.items()}
    return data


def _member(member: Member) -> dict[str, Any]:
    row: dict[str, Any] = {
        "metal": member.metal.key,
        "form": member.form,
        **_length("thickness", member.thickness),
    }
    if member.diameter:
        row |= _length("diameter", member.diameter)
    if member.coating != "none":
        row["coating"] = member.coating
    return row


def _length(name: str, value: Length) -> dict[str, Any]:
    if value.typed == f"{value.mm:g} mm":
        return {f"{name}_mm": value.mm}
    return {name: value.typed}
