"""The saved values that a change must keep, so that only one value changes.

They are the values that the current rules, stock and history would plan differently.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from msgspec import Struct, field

from ..plan.arc.need import BENCH, OWN_KEY
from ..plan.pins import PINS
from ..plan.plan import Plan
from ..schema.json_types import Json, JsonObject

# A smaller difference is rounding of the saved figures.
SAME_SHARE = 0.01
# The keys of the joint that contain an answer: their names, and their values in a plan.
_JOINT: Mapping[str, tuple[str, Callable[[Plan], Any]]] = {
    "filler": ("rod", lambda plan: plan.filler.rod or "none"),
    "pulse": ("pulse", lambda plan: plan.pulse.school),
    "back": ("back", lambda plan: plan.back.cover),
    "travel_mm_s": ("pace", lambda plan: plan.travel.speed_mm_s),
}
# Keys that change together with these answers.
_GO_WITH = ("filler", "pulse", "back")
MAX_HELD_ROUNDS = 16


class Held(Struct, frozen=True):
    """The values to keep, {key of the joint: value}, and their names.

    It also has values that move today and stay free, because a caution forbids them.
    """

    sets: JsonObject = field(default_factory=dict)
    names: tuple[str, ...] = ()
    moved: tuple[str, ...] = ()

    def with_held(self, sets: JsonObject) -> dict[str, Json]:
        """Return the keys of a change together with the values to keep.

        Keys that the change moves stay free.
        """
        dropped = [answer for answer in _GO_WITH if answer in sets]
        kept = {key: value for key, value in self.sets.items() if _find_answer(key) not in dropped}
        return {**kept, **sets}

    @property
    def description(self) -> str:
        """Return the description, or "" if the current plan is unchanged."""
        held = (
            f"As in the planned run, although today's plan differs: {', '.join(self.names)}."
            if self.names
            else ""
        )
        moved = (
            f"Also changed, by today's rules or stock: {', '.join(self.moved)}."
            if self.moved
            else ""
        )
        return " ".join(text for text in (held, moved) if text)


def _find_answer(key: str) -> str:
    return PINS[key.removeprefix("pins.")].answer if key.startswith("pins.") else key


def find_plan_differences(kept: Plan, now: Plan) -> Iterator[tuple[str, Any, str]]:
    """Return the differences of two plans of a joint that a change can preserve.

    Key, saved value, name.

    Args:
        kept: The saved plan.
        now: The current plan.
    """
    if now.current.by_record and not kept.current.by_record:
        yield OWN_KEY, BENCH, "current from the rule of thumb"
    for key, (name, of) in _JOINT.items():
        if not _is_same(of(kept), of(now)):
            yield key, of(kept), name
    for key, pin in PINS.items():
        value = pin.now(kept)
        if value is not None and not _is_same(value, pin.now(now)):
            yield f"pins.{key}", value, pin.label[:1].lower() + pin.label[1:]


def _is_same(value: Any, other: Any) -> bool:
    if isinstance(value, int | float) and isinstance(other, int | float):
        return abs(value - other) <= SAME_SHARE * max(abs(value), abs(other), 1e-9)
    return bool(value == other)


def find_held(kept: Plan, today: Plan, plan_with: Callable[[JsonObject], Plan | None]) -> Held:
    """Find the values to keep, one key after another, until the current plan equals the saved one.

    A value that follows from another needs no key. A key that raises a new caution stays free.

    Args:
        kept: The saved plan.
        today: The current plan.
        plan_with: Returns the current plan of the joint with changed keys, or None.
    """
    codes = _list_codes(today)
    sets: dict[str, Json] = {}
    names: list[str] = []
    moved: dict[str, str] = {}
    now = today
    for _ in range(MAX_HELD_ROUNDS):
        difference = next(
            (d for d in find_plan_differences(kept, now) if d[0] not in sets and d[0] not in moved),
            None,
        )
        if difference is None:
            break
        key, value, name = difference
        plan = plan_with({**sets, key: value})
        if plan is None or _list_codes(plan) - codes:
            moved[key] = name
            continue
        now = plan
        sets[key] = value
        names.append(name)
    left = {key for key, _, _ in find_plan_differences(kept, now)}
    return Held(sets, tuple(names), tuple(name for key, name in moved.items() if key in left))


def _list_codes(plan: Plan) -> set[str]:
    return {caution.code for caution in plan.cautions if caution.level != "note"}
