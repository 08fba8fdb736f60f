"""What a pinned answer does: what changed because of it, and how the plan judges it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from ..core.joint import Joint
from ..core.pins import PINS, PinKind
from ..core.plan import make_plan
from ..core.quantities import flow, length, plain
from ..core.shop import Shop
from ..formats.plan_json import write_plan
from ..formats.plan_lines import Line, Notice, plan_cautions, plan_lines

_WHOLE = {"filler": "auto", "pulse": "auto", "back": "auto", "travel_mm_s": None}
VERDICTS = {
    "stop": "Stop: it cannot stand.",
    "caution": "It stands with a caution.",
    "fine": "Fine: nothing speaks against it.",
}


@dataclass(frozen=True)
class PinEffect:
    """One pinned answer: its key and words, the plan's own instead, verdict "fine", "caution" or "stop", and its effects."""

    key: str
    label: str
    own: str
    verdict: str
    words: str
    changes: list[str]


@dataclass(frozen=True)
class PinField:
    """A field in which an answer can be pinned: its key, label with unit, what is pinned, the plan's own."""

    key: str
    label: str
    value: str
    own: str
    options: list[str]

    @property
    def html_id(self) -> str:
        return self.key.replace(".", "-").replace("_", "-")


def pin_effects(joint: Joint, shop: Shop, with_pins: dict[str, Any], habit: str) -> dict[str, list[PinEffect]]:
    """The effects of every pin of a joint, by answer. Parameters: with_pins, the plan's data as it stands."""
    lines = plan_lines(with_pins, habit)
    notices = plan_cautions(with_pins, habit)
    found: dict[str, list[PinEffect]] = {}
    for line in lines:
        for key, _ in line.pins:
            without = write_plan(make_plan(_released(joint, key), shop))
            found.setdefault(line.key, []).append(_effect(key, line, lines, notices, without, habit))
    return found


def _released(joint: Joint, key: str) -> Joint:
    if key.startswith("pins."):
        return replace(joint, pins={name: pin for name, pin in joint.pins.items() if name != key[len("pins.") :]})
    return replace(joint, **{key: _WHOLE[key]})


def _effect(
    key: str, own_line: Line, lines: list[Line], notices: list[Notice], without: dict[str, Any], habit: str
) -> PinEffect:
    before = {line.key: line for line in plan_lines(without, habit)}
    known = {(c.code, c.level) for c in plan_cautions(without, habit)}
    new = [c for c in notices if (c.code, c.level) not in known and c.level != "note"]
    verdict = "stop" if any(c.level == "stop" for c in new) else "caution" if new else "fine"
    changes = [
        f"{line.label}: {before[line.key].what} → {line.what}"
        for line in lines
        if line.key != own_line.key and line.what != before[line.key].what
    ]
    own = before[own_line.key]
    label = next(words for k, words in own_line.pins if k == key)
    return PinEffect(
        key, label[0].upper() + label[1:], f"{own.what}; {own.detail}".strip("; "), verdict, VERDICTS[verdict], changes
    )


def pin_fields(joint: Joint, plan: dict[str, Any], habit: str) -> dict[str, list[PinField]]:
    """The fields of every answer that can be pinned, by answer."""
    fields: dict[str, list[PinField]] = {}
    for name, kind in PINS.items():
        now = _now(name, plan)
        if now is None and name not in joint.pins:
            continue
        pinned = joint.pin(name)
        options = [str(v) for v in kind.allowed]
        value = "" if pinned is None else str(pinned) if options else _shown(pinned, kind, habit)
        own = "" if now is None else str(now) if options else _shown(now, kind, habit)
        unit = {"flow": " (CFH)" if habit == "in" else " (L/min)", "length": f" ({habit})"}.get(
            kind.quantity, f" ({kind.unit})" if kind.unit else ""
        )
        fields.setdefault(kind.answer, []).append(
            PinField(f"pin.{name}", kind.label + ("" if options else unit), value, own, options)
        )
    return fields


_PLACES = {
    "rod_diameter_mm": ("filler", "diameter_mm"), "current_a": ("current", "steady_a"), "rate_pps": ("pulse", "rate_pps"),
    "on_pct": ("pulse", "on_pct"), "background_pct": ("pulse", "background_pct"), "tungsten_type": ("tungsten", "type"),
    "tungsten_mm": ("tungsten", "diameter_mm"), "included_angle_deg": ("tungsten", "included_angle_deg"), "front_end": ("torch", "front_end"),
    "cup": ("torch", "cup"), "stickout_mm": ("torch", "stickout_mm"), "flow_l_min": ("gas", "flow_l_min"), "preflow_s": ("gas", "preflow_s"),
    "postflow_s": ("gas", "postflow_s"), "tack_pitch_mm": ("tacks", "pitch_mm"),
}  # fmt: skip


def _now(name: str, plan: dict[str, Any]) -> Any:
    """What the plan has for a pin's answer, or None where it has none."""
    if name == "peak_a":
        return plan["pulse"]["peak_a"] if plan["pulse"]["on_pct"] else None
    if name == "purge_l_min":
        return plan["back"]["purge"]["weld_l_min"] if plan["back"]["purge"] else None
    if name in ("rate_pps",) and not plan["pulse"]["on_pct"]:
        return None
    part, key = _PLACES[name]
    return plan[part][key]


def _shown(value: float, kind: PinKind, habit: str) -> str:
    if kind.quantity == "length":
        return length(value).number(habit)
    if kind.quantity == "flow":
        return flow(value).number(habit)
    return plain(value, 1)
