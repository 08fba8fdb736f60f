"""What of a plan that was kept is held in a change of it, so that one thing is changed and no
other: what today's rules, shelf and record would plan otherwise.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from msgspec import Struct, field

from ..plan.arc.need import BENCH, OWN_KEY
from ..plan.pins import PINS
from ..plan.plan import Plan
from ..schema.json_types import Json, JsonObject

# figures nearer than this are the same: what was kept is rounded
SAME_SHARE = 0.01
# keys of the joint that hold an answer: what they are called, and what a plan has for them
_JOINT: Mapping[str, tuple[str, Callable[[Plan], Any]]] = {
    "filler": ("rod", lambda plan: plan.filler.rod or "none"),
    "pulse": ("pulse", lambda plan: plan.pulse.school),
    "back": ("back", lambda plan: plan.back.cover),
    "travel_mm_s": ("pace", lambda plan: plan.travel.speed_mm_s),
}
# what is set of these answers goes with them
_GO_WITH = ("filler", "pulse", "back")
MAX_HELD_ROUNDS = 16


class Held(Struct, frozen=True):
    """What is held, {key of the joint: value}, and by which name; what today moves and is not held,
    for a caution forbids it.
    """

    sets: JsonObject = field(default_factory=dict)
    names: tuple[str, ...] = ()
    moved: tuple[str, ...] = ()

    def beside(self, sets: JsonObject) -> dict[str, Json]:
        """Keys that are set, with what is held beside them: not what goes with an answer that is
        set.
        """
        dropped = [answer for answer in _GO_WITH if answer in sets]
        kept = {key: value for key, value in self.sets.items() if _find_answer(key) not in dropped}
        return {**kept, **sets}

    @property
    def said(self) -> str:
        """It in words, "" where a plan is as it would be today."""
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
        return " ".join(words for words in (held, moved) if words)


def _find_answer(key: str) -> str:
    return PINS[key.removeprefix("pins.")].answer if key.startswith("pins.") else key


def find_plan_differences(kept: Plan, now: Plan) -> Iterator[tuple[str, Any, str]]:
    """What two plans of a joint differ in that can be held: the joint's key, what was kept, its
    name.
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


def _is_same(one: Any, other: Any) -> bool:
    if isinstance(one, int | float) and isinstance(other, int | float):
        return abs(one - other) <= SAME_SHARE * max(abs(one), abs(other), 1e-9)
    return bool(one == other)


def find_held(kept: Plan, today: Plan, plan_with: Callable[[JsonObject], Plan | None]) -> Held:
    """What is held of a plan that was kept, one key after another until today's plan is as it was:
    what follows from one needs no holding itself.

    Parameters: plan_with, the plan of its joint today with keys set, None where there can be none.
    Never what brings up a caution that does not stand today.
    """
    stands = _list_codes(today)
    sets: dict[str, Json] = {}
    names: list[str] = []
    moved: dict[str, str] = {}
    now = today
    for _ in range(MAX_HELD_ROUNDS):
        one = next(
            (d for d in find_plan_differences(kept, now) if d[0] not in sets and d[0] not in moved),
            None,
        )
        if one is None:
            break
        key, value, name = one
        found = plan_with({**sets, key: value})
        if found is None or _list_codes(found) - stands:
            moved[key] = name
            continue
        now = found
        sets[key] = value
        names.append(name)
    left = {key for key, _, _ in find_plan_differences(kept, now)}
    return Held(sets, tuple(names), tuple(name for key, name in moved.items() if key in left))


def _list_codes(plan: Plan) -> set[str]:
    return {one.code for one in plan.cautions if one.level != "note"}
