"""The plan's data as lines for people: one of what, one of why, in bench order, in either unit habit.

Works on the data of a plan file, so that a kept plan reads as it was kept, whatever the rules say now.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..core.catalogue import pulse_schools, tungsten_types
from ..core.choices.back import NAMES as BACK_NAMES
from ..core.choices.torch import NAMES as TORCH_NAMES
from ..core.pins import PINS
from ..core.quantities import flow, heat, length, plain, size, speed, temperature
from ..core.sources import short_mark

LEVEL_WORDS = {"stop": "Stop", "caution": "Mind", "note": "Note"}
_PLAIN_PINS = {"filler": "filler", "pulse": "pulse", "back": "back", "travel_mm_s": "travel"}


@dataclass(frozen=True)
class Why:
    """A reason: text, its source in words, mark, and the formula with numbers put in where there is one."""

    text: str
    source: str
    mark: str
    short_mark: str
    formula: str = ""
    worked: str = ""
    key: str = ""


@dataclass(frozen=True)
class OtherWay:
    """What else was open, what it costs, and the joint's keys that choose it."""

    value: str
    text: str
    mark: str
    sets: dict[str, Any]
    school: str = ""


@dataclass(frozen=True)
class Notice:
    """A caution in words."""

    level: str
    word: str
    code: str
    at: str
    text: str
    mend: str = ""
    sets: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Line:
    """One answer: label, what in few words, detail, and everything behind it."""

    key: str
    label: str
    what: str
    detail: str
    why: list[Why]
    others: list[OtherWay]
    cautions: list[Notice]
    pins: list[tuple[str, str]] = field(default_factory=list)

    @property
    def mark(self) -> str:
        return self.why[0].short_mark if self.why else ""


def plan_lines(plan: dict[str, Any], habit: str = "mm") -> list[Line]:
    """The answers in bench order. Parameters: plan, data of a plan file; habit, "mm" or "in"."""
    shown = {
        "filler": ("Filler", *_filler(plan, habit)),
        "current": ("Current", *_current(plan)),
        "pulse": ("Pulse", *_pulse(plan)),
        "travel": ("Travel", *_travel(plan, habit)),
        "tungsten": ("Tungsten", *_tungsten(plan, habit)),
        "torch": ("Torch", *_torch(plan, habit)),
        "gas": ("Gas", *_gas(plan, habit)),
        "back": ("Back", *_back(plan, habit)),
        "fit-up": ("Fit-up", *_fit_up(plan, habit)),
        "tacks": ("Tacks", *_tacks(plan, habit)),
        "heat": ("Heat", *_heat(plan, habit)),
    }
    cautions = plan_cautions(plan, habit)
    pinned = pins_by_line(plan["joint"], habit)
    lines = []
    for key, (label, what, detail) in shown.items():
        part = plan[key.replace("-", "_")]
        lines.append(
            Line(
                key, label, what, detail,
                why=[_why(r, habit) for r in part.get("why", [])],
                others=[_other(o, habit) for o in part.get("others", [])],
                cautions=[c for c in cautions if c.at == key and c.level != "note"],
                pins=pinned.get(key, []),
            )
        )  # fmt: skip
    return lines


def plan_cautions(plan: dict[str, Any], habit: str = "mm") -> list[Notice]:
    """Every caution in words, most serious first."""
    text = _text_key("text", habit)
    return [
        Notice(
            c["level"],
            LEVEL_WORDS[c["level"]],
            c["code"],
            c["at"],
            c.get(text, c["text"]),
            c.get("mend", ""),
            c.get("sets", {}),
        )
        for c in plan["cautions"]
    ]


def pins_by_line(joint: dict[str, Any], habit: str = "mm") -> dict[str, list[tuple[str, str]]]:
    """What was set by hand, by answer: (joint key, words)."""
    found: dict[str, list[tuple[str, str]]] = {}
    for key, line in _PLAIN_PINS.items():
        if joint.get(key) not in (None, "auto"):
            found.setdefault(line, []).append((key, "set by hand"))
    for name, value in joint.get("pins", {}).items():
        kind = PINS[name]
        words = (
            value if kind.quantity == "plain" else {"length": length, "flow": flow}[kind.quantity](value).text(habit)
        )
        found.setdefault(kind.answer, []).append((f"pins.{name}", f"{kind.label.lower()} {words}"))
    return found


def summary(plan: dict[str, Any], habit: str = "mm") -> list[tuple[str, str]]:
    """What the run costs: arc time, heat, argon, rod."""
    rows = [
        ("Arc time", duration(plan["travel"]["arc_time_s"])),
        ("Heat", heat(plan["heat"]["heat_input_kj_mm"]).text(habit)),
        ("Argon", litres(plan["gas"]["argon_l"], habit)),
    ]
    if plan["filler"]["rod"]:
        rows.append(("Rod", size(plan["filler"]["length_mm"]).text(habit)))
    return rows


def litres(value: float, habit: str) -> str:
    """A volume of gas: litres, or cubic feet."""
    return f"{plain(value, 0)} L" if habit == "mm" else f"{plain(value / 28.316846592, 1)} ft³"


def duration(seconds: float) -> str:
    """A time in minutes and seconds.

    >>> duration(112), duration(42.4)
    ('1 min 52 s', '42 s')
    """
    whole = round(seconds)
    return f"{whole // 60} min {whole % 60} s" if whole >= 60 else f"{whole} s"


def _text_key(name: str, habit: str) -> str:
    return name if habit == "mm" else f"{name}_in"


def _why(row: dict[str, Any], habit: str) -> Why:
    return Why(
        row.get(_text_key("text", habit), row["text"]), row["source"], row["mark"], short_mark(row["mark"]),
        row.get("formula", ""), row.get(_text_key("worked", habit), ""),
        row.get("source_key", ""),
    )  # fmt: skip


def _other(row: dict[str, Any], habit: str) -> OtherWay:
    return OtherWay(
        row.get(_text_key("value", habit), row["value"]),
        row.get(_text_key("text", habit), row["text"]),
        short_mark(row["mark"]),
        row["sets"],
        row.get("school", ""),
    )


def _filler(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    f = plan["filler"]
    if f["rod"] is None:
        return "none", "bare-fit, melt the edges"
    count = f"{f['rods']} rod" + ("s" if f["rods"] != 1 else "")
    return (
        f"{f['rod']} {length(f['diameter_mm']).text(habit)}",
        f"{size(f['length_mm']).text(habit)} of it, {count}",
    )


def _current(plan: dict[str, Any]) -> tuple[str, str]:
    c, s = plan["current"], plan["slopes"]
    detail = f"{c['low_a']:.0f}–{c['high_a']:.0f}, set {c['machine_a']:.0f}"
    if plan["pulse"]["on_pct"]:
        detail += " at the peak"
    if s["start_a"] is not None:
        detail += f"; start {s['start_a']:.0f}, up {plain(s['up_s'])} s, down {plain(s['down_s'], 1)} s to {s['finish_a']:.0f}"
    return f"{c['steady_a']:.0f} A", detail


def _pulse(plan: dict[str, Any]) -> tuple[str, str]:
    p = plan["pulse"]
    name = pulse_schools()[p["school"]].name
    if p["on_pct"] is None:
        return name, "about one dab a second" if p["school"] == "pedal" else "steady arc"
    what = f"{plain(p['rate_pps'], 1)} /s · {plain(p['on_pct'], 0)} % · {plain(p['background_pct'], 0)} %"
    return what, f"{name}; {p['peak_a']:.0f} over {p['background_a']:.0f} A, mean {p['average_a']:.0f}"


def _travel(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    t = plan["travel"]
    detail = f"pool {size(t['pool_width_mm']).text(habit)}, arc {length(t['arc_length_mm']).text(habit)}"
    if t["pitch_mm"]:
        detail += f"; {size(t['pitch_mm']).text(habit)} a ripple, {plain(t['overlap_pct'], 0)} % lap"
    return speed(t["speed_mm_s"]).text(habit), detail


def _tungsten(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    t = plan["tungsten"]
    kind = tungsten_types()[t["type"]]
    flat = "no flat" if not t["tip_flat_mm"] else f"flat {length(t['tip_flat_mm']).text(habit)}"
    return (
        f"{length(t['diameter_mm']).text(habit)} {kind.name}",
        f"{kind.colour}; {plain(t['included_angle_deg'])}°, {flat}",
    )


def _torch(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    t = plan["torch"]
    return (
        f"{TORCH_NAMES[t['front_end']]}, no. {t['cup']}",
        f"{size(t['stickout_mm']).text(habit)} out, sound to {size(t['stickout_limit_mm']).text(habit)}",
    )


def _gas(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    g = plan["gas"]
    return (
        f"{flow(g['flow_l_min']).text(habit)} {g['gas']}",
        f"{plain(g['preflow_s'])} s before, {plain(g['postflow_s'])} s after",
    )


def _back(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    b = plan["back"]
    parts = []
    if b["bar_runs"]:
        parts.append(f"{b['bar_runs']} length{'s' if b['bar_runs'] != 1 else ''} of bar")
    if b["purge"]:
        where = "" if b["cover"] == "purge" else " in the groove"
        parts.append(
            f"{flow(b['purge']['before_l_min']).text(habit)} before, {flow(b['purge']['weld_l_min']).text(habit)} welding{where}"
        )
    return BACK_NAMES[b["cover"]], "; ".join(parts)


def _fit_up(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    most = plan["fit_up"]["max_gap_mm"]
    return (
        f"gap to {length(most).text(habit)}",
        "none that a hair enters" if most <= 0.05 else "at most, anywhere on the seam",
    )


def _tacks(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    t = plan["tacks"]
    return (
        f"{t['count']}, every {size(t['pitch_mm']).text(habit)}",
        f"{size(t['length_mm']).text(habit)} long, {t['current_a']:.0f} A for {plain(t['time_s'])} s",
    )


def _heat(plan: dict[str, Any], habit: str) -> tuple[str, str]:
    h = plan["heat"]
    detail = f"over {temperature(450).text(habit)} for {size(h['hot_band_mm']).text(habit)} across; next run below {temperature(h['interpass_c']).text(habit)}"
    if h["part_mean_c"] is not None:
        detail += f"; the part ends at {temperature(h['part_mean_c']).text(habit)}"
    return heat(h["heat_input_kj_mm"]).text(habit), detail
