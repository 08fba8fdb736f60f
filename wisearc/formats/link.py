"""A joint as the query of a link, so that an address contains the joint.

The keys are those of a joint file; members are `a`, `b`, `c` with a dot (`a.metal`), manual answers
`pins.cup`. Defaults are omitted, and `b` if it equals `a`. Lengths are as typed.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from msgspec import Struct, field

from ..core.errors import InputError, OutOfRange, shorten
from ..core.joint.data import make_joint
from ..core.joint.joint import Joint, Member
from ..core.plan.pins import PINS
from ..core.quantities import Quantity
from ..core.schema.entries import Entry, read_entries
from ..core.schema.json_types import Json, JsonObject, get_object, get_rows
from ..core.typed_quantities import TYPED_WITH_UNIT, parse_quantity

MEMBERS = ("a", "b", "c")
# Far above the number of fields of a joint.
MAX_PAIRS = 200


class Asked(Struct):
    """An unchecked joint: its fields, members and manual answers, by their keys in a file."""

    own: dict[str, Json]
    members: list[dict[str, str]]
    pins: dict[str, Json] = field(default_factory=dict)

    def data(self) -> dict[str, Json]:
        """Return the data of the joint."""
        pins: dict[str, Json] = {"pins": self.pins} if self.pins else {}
        return {**self.own, "members": self.members, **pins}

    def copy(self) -> Asked:
        """Return a copy."""
        return Asked(dict(self.own), [dict(m) for m in self.members], dict(self.pins))


_SHEET = {"metal": "304L", "form": "sheet", "thickness": "1.5 mm"}
START = Asked({"joint": "outside-corner", "length": "300 mm"}, [_SHEET, _SHEET])


class Problem(Struct, frozen=True):
    """An invalid pair of a link.

    Key, text, rule, and alternatives, each as a link value and as a label.
    """

    key: str
    typed: str
    rule: str
    offers: tuple[tuple[str, str], ...] = ()

    @property
    def sentence(self) -> str:
        """Return the sentence for the field."""
        end = "" if self.rule.endswith("?") else "."
        if self.typed:
            return f"“{shorten(self.typed)}” {self.rule}{end}"
        return f"{self.rule[:1].upper()}{self.rule[1:]}{end}"


def link_query(data: JsonObject) -> list[tuple[str, str]]:
    """Return the query of a joint as pairs in a fixed order.

    Args:
        data: Plain data of a joint, checked or saved.
    """
    pairs = [("joint", str(data["joint"]))]
    members = get_rows(data, "members")
    for name, member in zip(MEMBERS, members, strict=False):
        if name == "b" and member == members[0] and len(members) == 2:
            continue
        pairs += _list_pairs(member, read_entries(Member), f"{name}.", all_of_them=True)
        if name == "b" and "coating" in members[0] and "coating" not in member:
            pairs.append(("b.coating", "none"))
    pairs += _list_pairs({k: v for k, v in data.items() if k != "joint"}, read_entries(Joint))
    pins = get_object(data, "pins").items()
    return pairs + [(f"pins.{name}", _format_text(value)) for name, value in pins]


def _list_pairs(
    data: JsonObject, table: Mapping[str, Entry], prefix: str = "", all_of_them: bool = False
) -> list[tuple[str, str]]:
    pairs = []
    for key, declared in table.items():
        value = data.get(key)
        if value in (None, "") and data.get(f"{key}_mm") is not None:
            value = f"{_format_text(data[f'{key}_mm'])} mm"
        if value in (None, ""):
            continue
        if all_of_them or key == "length" or value != declared.usual:
            pairs.append((prefix + key, _format_text(value)))
    return pairs


def _format_text(value: Any) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


def read_link(pairs: Iterable[tuple[str, str]]) -> tuple[Joint, list[Problem]]:
    """Return the joint of a link, and its problems.

    An invalid pair is omitted and reported, so that the others stay.

    Args:
        pairs: The pairs of the query.
    """
    asked, problems = read_asked(pairs)
    while True:
        try:
            return make_joint(asked.data()), problems
        except InputError as error:
            problem = link_problem(error)
            if not any(p.typed == problem.typed and p.rule == problem.rule for p in problems):
                problems.append(problem)
            asked = _drop_field(asked, error.field)


def link_problem(error: InputError, units: str = "mm") -> Problem:
    """Return a refused value as a problem of the link.

    Args:
        error: The error.
        units: Unit system for its limits.
    """
    key = link_key(error.field)
    offers = ((error.nearest, _describe_offer(key, error.nearest, units)),) if error.nearest else ()
    typed = "" if error.value is None else shorten(error.value)
    return Problem(key, typed, _format_rule(error, key, units), offers)


def get_quantity(key: str) -> str:
    """Return the kind of quantity of a link key, "plain" without a unit."""
    declared = _find_entry(key)
    if declared is not None:
        return "length" if declared.kind == "length" else declared.quantity
    pin = PINS.get(key.removeprefix("pins."))
    return pin.quantity if pin is not None and not pin.by_hand.allowed else "plain"


def _find_entry(key: str) -> Entry | None:
    return read_entries(Joint).get(key) or read_entries(Member).get(key.partition(".")[2])


def _format_rule(error: InputError, key: str, units: str) -> str:
    """Return the broken rule with limits in a unit system."""
    quantity = get_quantity(key)
    if not isinstance(error, OutOfRange) or quantity not in TYPED_WITH_UNIT:
        return error.rule_in(units)
    return (
        f"must be from {Quantity(error.low, quantity).text(units)} to"
        f" {Quantity(error.high, quantity).text(units)}"
    )


def _describe_offer(key: str, value: str, units: str) -> str:
    """Return the label of an alternative value."""
    declared = _find_entry(key)
    if declared is not None and (option := declared.allowed().get(value)):
        return option.label
    if get_quantity(key) != "length":
        return value
    return Quantity(parse_quantity(value, "length", key), "exact").text(units)


def read_asked(pairs: Iterable[tuple[str, str]]) -> tuple[Asked, list[Problem]]:
    """Return the unchecked joint of pairs.

    Unknown keys and unreadable numbers become problems.
    """
    own_fields: dict[str, Json] = {}
    members: dict[str, dict[str, str]] = {}
    pins: dict[str, Json] = {}
    problems: list[Problem] = []
    typed_pairs = list(pairs)
    if len(typed_pairs) > MAX_PAIRS:
        parts = f"the link has {len(typed_pairs)} parts"
        rule = f"{parts}, and those after the first {MAX_PAIRS} were ignored"
        problems.append(Problem("", "", rule))
    for key, raw in typed_pairs[:MAX_PAIRS]:
        text = raw.strip()
        if text == "":
            continue
        first, _, rest = key.partition(".")
        try:
            if first in MEMBERS and rest in read_entries(Member):
                members.setdefault(first, {})[rest] = text
            # Links of the first version have the singular.
            elif first in ("pins", "pin"):
                pins[rest] = _pin_value(rest, text)
            elif key in read_entries(Joint):
                own_fields[key] = _parse_value(read_entries(Joint)[key], text)
            else:
                raise InputError(key, text, "is not a part of a joint link and was ignored")
        except InputError as error:
            problems.append(Problem(link_key(key), text, error.rule))
    return Asked(START.own | own_fields, _fill_members(members), pins), problems


def _parse_value(declared: Entry, text: str) -> str | float:
    if declared.kind != "number":
        return text
    return parse_quantity(text, declared.quantity, declared.key)


def _fill_members(members: dict[str, dict[str, str]]) -> list[dict[str, str]]:
    a = {**_SHEET, **members.get("a", {})}
    rows = [a, {**a, **members.get("b", {})}]
    for row in rows:
        if row.get("form") != "tube":
            row.pop("diameter", None)
    return [*rows, {**_SHEET, **members["c"]}] if "c" in members else rows


def _pin_value(name: str, text: str) -> str | float:
    pin = PINS.get(name)
    if pin is None:
        raise InputError(
            f"pins.{name}", text, "is not an answer that can be pinned. Allowed: " + ", ".join(PINS)
        )
    allowed = pin.by_hand.allowed
    if allowed and isinstance(allowed[0], str):
        return text
    if pin.quantity == "length" and not allowed and text.startswith("."):
        text = f"0{text}"
    number = parse_quantity(text, "plain" if allowed else pin.quantity, f"pins.{name}")
    return (
        int(number) if allowed and isinstance(allowed[0], int) and number == int(number) else number
    )


def link_key(field: str) -> str:
    """Return the link key of a joint field: members[0].metal → a.metal, length_mm → length."""
    if field.startswith("members["):
        index, _, rest = field[len("members[") :].partition("]")
        return f"{MEMBERS[int(index)]}.{rest.lstrip('.').removesuffix('_mm')}".rstrip(".")
    if field.startswith("pin."):
        return f"pins.{field.removeprefix('pin.')}"
    plain = field.removesuffix("_mm")
    return plain if plain in read_entries(Joint) else field


def _drop_field(asked: Asked, wrong: str) -> Asked:
    """Return the joint with one field reset, or the default joint if that does not help."""
    out, key = asked.copy(), link_key(wrong)
    first, _, rest = key.partition(".")
    if first in MEMBERS and MEMBERS.index(first) < len(out.members):
        member = out.members[MEMBERS.index(first)]
        if rest in _SHEET and member.get(rest) != _SHEET[rest]:
            member[rest] = _SHEET[rest]
            return out
        if rest in member and rest not in _SHEET:
            del member[rest]
            return out
    elif first == "pins" and rest in out.pins:
        del out.pins[rest]
        return out
    elif key in out.own and key != "joint" and out.own[key] != START.own.get(key):
        del out.own[key]
        out.own |= {"length": START.own["length"]} if key == "length" else {}
        return out
    elif key == "joint" and out.own["joint"] not in read_entries(Joint)["joint"].allowed():
        out.own["joint"] = START.own["joint"]
        return out
    return START.copy()
