"""Joint ↔ the query of a link, so that an address holds the joint.

Keys are those of a joint file; members are `a`, `b`, `c` with a dot (`a.metal`), pins `pins.cup`.
What is as usual is left out, and `b` is left out where it is the same as `a`. Lengths are as typed.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from ..core.errors import BadInput, OutOfRange, in_few_words
from ..core.joint.data import make_joint
from ..core.joint.joint import Joint, Member
from ..core.plan.pins import PINS
from ..core.quantities import TYPED_WITH_UNIT, Quantity, parse_quantity
from ..core.schema.entries import Entry, entries

START: dict[str, Any] = {
    "joint": "outside-corner",
    "members": [
        {"metal": "304L", "form": "sheet", "thickness": "1.5 mm"},
        {"metal": "304L", "form": "sheet", "thickness": "1.5 mm"},
    ],
    "length": "300 mm",
}
MEMBERS = ("a", "b", "c")
# many more than a joint has words
MOST_PAIRS = 200


@dataclass(frozen=True)
class Problem:
    """Something in a link that could not be used: the key, what stood there, the rule, and what
    could stand there, each as it is put into a link and in words.
    """

    key: str
    typed: str
    rule: str
    offers: tuple[tuple[str, str], ...] = ()

    @property
    def sentence(self) -> str:
        """One clear sentence for beside the field."""
        end = "" if self.rule.endswith("?") else "."
        if self.typed:
            return f"“{in_few_words(self.typed)}” {self.rule}{end}"
        return f"{self.rule[:1].upper()}{self.rule[1:]}{end}"


def link_query(data: Mapping[str, Any]) -> list[tuple[str, str]]:
    """The query of a joint's link, as pairs in a fixed order. Parameters: data, plain data of a
    joint, checked or kept.
    """
    pairs = [("joint", str(data["joint"]))]
    members = data["members"]
    for name, member in zip(MEMBERS, members, strict=False):
        if name == "b" and member == members[0] and len(members) == 2:
            continue
        pairs += _pairs(member, entries(Member), f"{name}.", all_of_them=True)
        if name == "b" and "coating" in members[0] and "coating" not in member:
            pairs.append(("b.coating", "none"))
    pairs += _pairs({k: v for k, v in data.items() if k != "joint"}, entries(Joint))
    return pairs + [(f"pins.{name}", _text(value)) for name, value in data.get("pins", {}).items()]


def _pairs(
    data: Mapping[str, Any], table: Mapping[str, Entry], prefix: str = "", all_of_them: bool = False
) -> list[tuple[str, str]]:
    found = []
    for key, declared in table.items():
        value = data.get(key)
        if value in (None, "") and data.get(f"{key}_mm") is not None:
            value = f"{_text(data[f'{key}_mm'])} mm"
        if value in (None, ""):
            continue
        if all_of_them or key == "length" or value != declared.usual:
            found.append((prefix + key, _text(value)))
    return found


def _text(value: Any) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)


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


def link_problem(error: BadInput, habit: str = "mm") -> Problem:
    """A refused value as a problem of the link, its limits in a unit habit."""
    key = link_key(error.field)
    offers = ((error.nearest, _offered(key, error.nearest, habit)),) if error.nearest else ()
    typed = "" if error.value is None else in_few_words(error.value)
    return Problem(key, typed, _rule_in(error, key, habit), offers)


def quantity_of(key: str) -> str:
    """The kind of quantity that a link's key is, "plain" for one that has no unit."""
    declared = _entry(key)
    if declared is not None:
        return "length" if declared.kind == "length" else declared.quantity
    pin = PINS.get(key.removeprefix("pins."))
    return pin.quantity if pin is not None and not pin.by_hand.allowed else "plain"


def _entry(key: str) -> Entry | None:
    return entries(Joint).get(key) or entries(Member).get(key.partition(".")[2])


def _rule_in(error: BadInput, key: str, habit: str) -> str:
    """What a refused value breaks, in a habit: limits in its unit."""
    quantity = quantity_of(key)
    if not isinstance(error, OutOfRange) or quantity not in TYPED_WITH_UNIT:
        return error.rule_in(habit)
    return (
        f"must be from {Quantity(error.low, quantity).text(habit)} to"
        f" {Quantity(error.high, quantity).text(habit)}"
    )


def _offered(key: str, value: str, habit: str) -> str:
    """What could stand at a key, in words."""
    declared = _entry(key)
    if declared is not None and (found := declared.allowed().get(value)):
        return found.label
    if quantity_of(key) != "length":
        return value
    return Quantity(parse_quantity(value, "length", key), "exact").text(habit)


def link_data(pairs: Iterable[tuple[str, str]]) -> tuple[dict[str, Any], list[Problem]]:
    """A link's pairs as the data of a joint. Unknown keys and unreadable numbers become
    problems.
    """
    data: dict[str, Any] = {}
    members: dict[str, dict[str, str]] = {}
    pins: dict[str, Any] = {}
    problems: list[Problem] = []
    given = list(pairs)
    if len(given) > MOST_PAIRS:
        problems.append(
            Problem(
                "",
                "",
                f"the link has {len(given)} parts; those after the first {MOST_PAIRS} were"
                " left out",
            )
        )
    for key, raw in given[:MOST_PAIRS]:
        text = raw.strip()
        if text == "":
            continue
        first, _, rest = key.partition(".")
        try:
            if first in MEMBERS and rest in entries(Member):
                members.setdefault(first, {})[rest] = text
            # links of the first version have the singular
            elif first in ("pins", "pin"):
                pins[rest] = _pin_value(rest, text)
            elif key in entries(Joint):
                data[key] = _value(entries(Joint)[key], text)
            else:
                raise BadInput(key, text, "is not a part of a joint's link and was left out")
        except BadInput as error:
            problems.append(Problem(link_key(key), text, error.rule))
    return _filled(data, members, pins), problems


def _value(declared: Entry, text: str) -> Any:
    return (
        parse_quantity(text, declared.quantity, declared.key) if declared.kind == "number" else text
    )


def _filled(
    data: dict[str, Any], members: dict[str, dict[str, str]], pins: dict[str, Any]
) -> dict[str, Any]:
    a = {**START["members"][0], **members.get("a", {})}
    rows = [a, {**a, **members.get("b", {})}]
    for row in rows:
        if row.get("form") != "tube":
            row.pop("diameter", None)
    if "c" in members:
        rows.append({**START["members"][0], **members["c"]})
    filled = {"joint": START["joint"], "length": START["length"], **data, "members": rows}
    return filled | ({"pins": pins} if pins else {})


def _pin_value(name: str, text: str) -> Any:
    pin = PINS.get(name)
    if pin is None:
        raise BadInput(
            f"pins.{name}", text, "is not an answer that can be pinned; they are " + ", ".join(PINS)
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
    """The link's key for a joint's field: members[0].metal → a.metal, length_mm → length."""
    if field.startswith("members["):
        index, _, rest = field[len("members[") :].partition("]")
        return f"{MEMBERS[int(index)]}.{rest.lstrip('.').removesuffix('_mm')}".rstrip(".")
    if field.startswith("pin."):
        return f"pins.{field.removeprefix('pin.')}"
    plain = field.removesuffix("_mm")
    return plain if plain in entries(Joint) else field


def _without(data: dict[str, Any], field: str) -> dict[str, Any]:
    """The data with one field put back to what it starts from; a whole start where that does not
    help.
    """
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
    elif first == "pins" and rest in out.get("pins", {}):
        out["pins"] = {k: v for k, v in out["pins"].items() if k != rest}
        return out
    elif key in out and key not in ("members", "joint") and out[key] != START.get(key):
        out.pop(key)
        return out if key != "length" else {**out, "length": START["length"]}
    elif key == "joint" and out["joint"] not in entries(Joint)["joint"].allowed():
        return {**out, "joint": START["joint"]}
    return dict(START)
