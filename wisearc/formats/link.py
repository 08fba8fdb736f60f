"""Joint ↔ the query of a link, so that an address holds the joint.

Keys are those of a joint file; members are `a`, `b`, `c` with a dot (`a.metal`), pins `pin.cup`. What is at
its default is left out, and `b` is left out where it is the same as `a`. Lengths are as typed.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from ..core import catalogue
from ..core.errors import BadInput
from ..core.joint import Joint, make_joint
from ..core.pins import PINS
from ..core.quantities import parse_flow, parse_length, parse_speed
from .joint_json import write_joint

START: dict[str, Any] = {
    "joint": "outside-corner",
    "members": [{"metal": "304L", "form": "sheet", "thickness": "1.5 mm"}, {"metal": "304L", "form": "sheet", "thickness": "1.5 mm"}],
    "length": "300 mm",
}  # fmt: skip
MEMBERS = ("a", "b", "c")
MEMBER_KEYS = ("metal", "form", "thickness", "diameter", "coating")
NUMBERS = ("angle_deg", "travel_mm_s", "overlap_pct", "part_mass_g")
TEXTS = (
    "joint", "title", "position", "length", "gap", "reach", "filler", "pulse", "rod_school", "tip_school",
    "setting_school", "gas_school", "back", "back_access", "finish", "service", "control",
)  # fmt: skip


@dataclass(frozen=True)
class Problem:
    """Something in a link that could not be used: the key, what stood there, the rule, the nearest allowed."""

    key: str
    typed: str
    rule: str
    nearest: str | None = None

    @property
    def sentence(self) -> str:
        """One clear sentence for beside the field."""
        return f"“{self.typed}” {self.rule}." if self.typed else f"{self.rule}.".capitalize()


def link_query(joint: Joint) -> list[tuple[str, str]]:
    """The query of a joint's link, as pairs in a fixed order."""
    data = write_joint(joint)
    pairs = [("joint", data["joint"])]
    members = data["members"]
    for name, member in zip(MEMBERS, members, strict=False):
        if name == "b" and member == members[0] and len(members) == 2:
            continue
        pairs += [(f"{name}.{key}", text) for key, text in _texts(member, MEMBER_KEYS)]
        if name == "b" and "coating" in members[0] and "coating" not in member:
            pairs.append(("b.coating", "none"))
    plain = write_joint(_default_like(joint))
    for key in TEXTS[1:]:
        text = _text(data, key)
        if text is not None and (key == "length" or text != _text(plain, key)):
            pairs.append((key, text))
    pairs += [(key, f"{data[key]:g}") for key in NUMBERS if data.get(key) not in (None, plain.get(key))]
    pairs += [
        (f"pin.{name}", f"{value:g}" if isinstance(value, float) else str(value))
        for name, value in data["pins"].items()
    ]
    return pairs


def _default_like(joint: Joint) -> Joint:
    return make_joint({"joint": joint.kind.key, "members": write_joint(joint)["members"]})


def _texts(row: dict[str, Any], keys: Iterable[str]) -> list[tuple[str, str]]:
    return [(key, text) for key in keys if (text := _text(row, key)) is not None]


def _text(row: Mapping[str, Any], key: str) -> str | None:
    if row.get(key) not in (None, ""):
        return str(row[key])
    mm = row.get(f"{key}_mm")
    return None if mm is None else f"{mm:g} mm"


def read_link(pairs: Iterable[tuple[str, str]]) -> tuple[Joint, list[Problem]]:
    """The joint of a link, and what in it could not be used.

    What cannot be used is left out and told, so that one bad word does not lose the rest.
    """
    data, problems = link_data(pairs)
    while True:
        try:
            return make_joint(data), problems
        except BadInput as error:
            problem = link_problem(error)
            if not any(p.typed == problem.typed and p.rule == problem.rule for p in problems):
                problems.append(problem)
            data = _without(data, error.field)


def link_problem(error: BadInput) -> Problem:
    """A refused value as a problem of the link."""
    return Problem(link_key(error.field), "" if error.value is None else str(error.value), error.rule, error.nearest)


def link_data(pairs: Iterable[tuple[str, str]]) -> tuple[dict[str, Any], list[Problem]]:
    """A link's pairs as the data of a joint. Unknown keys and unreadable numbers become problems."""
    data: dict[str, Any] = {}
    members: dict[str, dict[str, str]] = {}
    pins: dict[str, Any] = {}
    problems: list[Problem] = []
    for key, raw in pairs:
        text = raw.strip()
        if text == "":
            continue
        first, _, rest = key.partition(".")
        try:
            if first in MEMBERS and rest in MEMBER_KEYS:
                members.setdefault(first, {})[rest] = text
            elif first == "pin":
                pins[rest] = _pin_value(rest, text)
            elif key in NUMBERS:
                data[key] = _number(key, text)
            elif key in TEXTS:
                data[key] = text
            else:
                raise BadInput(key, text, "is not a part of a joint's link and was left out")
        except BadInput as error:
            problems.append(Problem(key, text, error.rule))
    return _filled(data, members, pins), problems


def _filled(data: dict[str, Any], members: dict[str, dict[str, str]], pins: dict[str, Any]) -> dict[str, Any]:
    a = {**START["members"][0], **members.get("a", {})} if "a" in members else dict(START["members"][0])
    rows = [a, {**a, **members["b"]} if "b" in members else dict(a)]
    for row in rows:
        if row.get("form") != "tube":
            row.pop("diameter", None)
    if "c" in members:
        rows.append({**START["members"][0], **members["c"]})
    filled = {"joint": START["joint"], **data, "members": rows}
    if "length" not in filled:
        filled["length"] = START["length"]
    return filled | ({"pins": pins} if pins else {})


def _number(key: str, text: str) -> float:
    if key == "travel_mm_s":
        return parse_speed(text, key)
    try:
        return float(text.replace(",", "."))
    except ValueError as error:
        raise BadInput(key, text, "must be a number") from error


def _pin_value(name: str, text: str) -> Any:
    kind = PINS.get(name)
    if kind is None:
        raise BadInput(f"pin.{name}", text, "is not an answer that can be pinned; they are " + ", ".join(PINS))
    if kind.allowed and isinstance(kind.allowed[0], str):
        return text
    if kind.quantity == "length" and not kind.allowed:
        return parse_length(text if not text.startswith(".") else f"0{text}", f"pin.{name}", bare_unit="mm").mm
    if kind.quantity == "flow":
        return parse_flow(text, f"pin.{name}")
    number = _number(f"pin.{name}", text)
    return int(number) if kind.allowed and isinstance(kind.allowed[0], int) and number == int(number) else number


def link_key(field: str) -> str:
    """The link's key for a joint's field: members[0].metal → a.metal, length_mm → length."""
    if field.startswith("members["):
        index, _, rest = field[len("members[") :].partition("]")
        return f"{MEMBERS[int(index)]}.{rest.lstrip('.').removesuffix('_mm')}".rstrip(".")
    if field.startswith("pins."):
        return "pin." + field[len("pins.") :]
    return field if field in NUMBERS else field.removesuffix("_mm")


def _without(data: dict[str, Any], field: str) -> dict[str, Any]:
    """The data with one field put back to what it starts from; a whole start where that does not help."""
    out = {**data, "members": [dict(m) for m in data["members"]]}
    key = link_key(field)
    first, _, rest = key.partition(".")
    if first in MEMBERS and MEMBERS.index(first) < len(out["members"]):
        member = out["members"][MEMBERS.index(first)]
        start = START["members"][0]
        if rest in start and member.get(rest) != start[rest]:
            member[rest] = start[rest]
            return out
        if rest in member and rest not in start:
            del member[rest]
            return out
    elif first == "pin" and rest in out.get("pins", {}):
        out["pins"] = {k: v for k, v in out["pins"].items() if k != rest}
        return out
    elif key in out and key not in ("members", "joint") and out[key] != START.get(key):
        out.pop(key)
        return out if key != "length" else {**out, "length": START["length"]}
    elif key == "joint" and out["joint"] not in catalogue.joint_kinds():
        return {**out, "joint": START["joint"]}
    return {"joint": START["joint"], "members": START["members"], "length": START["length"]}
