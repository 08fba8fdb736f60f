"""The set-up checklist in the order of the bench.

Settings and parts, each with the action if a check fails. It follows from the plan alone, new or
saved. Differences from the last set-up are marked in each line.
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct
from msgspec.structs import replace

from ..core import catalogue
from ..core.plan.plan import Plan
from ..core.plan.torch.owned import BuildPart
from ..core.quantities import format_amps, format_count
from ..core.schema.figures import format_figure, format_value
from .plan_dial import Dial, DialFigure, build_dial

# These lines are repeated for every joint.
_NEVER_LEFT = ("metal", "clamp", "protection")
# The line of a torch part.
_PART_LINES = {
    "heat-shield": "ring",
    "collet-body": "body",
    "gas-lens": "body",
    "cup": "cup",
    "collet": "collet",
    "back-cap": "back-cap",
}


class SetLine(Struct, frozen=True):
    """A line.

    Key, label, large figures, additional text, action if the check fails, value of the last set-up
    ("": equal or none), and whether the part is out of stock.
    """

    key: str
    name: str
    figures: tuple[DialFigure, ...]
    text: str
    not_so: str
    was: str = ""
    missing: bool = False

    @property
    def setting(self) -> str:
        """Return the setting or part as text, as the next set-up shows it."""
        parts = [
            " ".join(word for word in (f.label, f.text, f.beside) if word) for f in self.figures
        ]
        return "; ".join(parts) or self.text or self.name.partition(". ")[2]


def set_list(plan: Plan, units: str = "mm", last: Mapping[str, str] | None = None) -> list[SetLine]:
    """Return the checklist of a plan.

    Args:
        plan: A new or saved plan.
        units: Unit system.
        last: The values of the last set-up by key, or None.
    """
    card = build_dial(plan, units)
    lines = [
        _build_line("metal", (), _describe_metal(plan, units)),
        *_list_torch_lines(plan, units),
        *_list_machine_lines(card, plan, units),
        _back(card, plan, units),
        *_list_rod_lines(plan, units),
        _build_line("clamp", (), _describe_clamp(plan)),
        _build_tack_line(plan, units),
        _build_line("protection", (), _describe_protection(plan, units)),
    ]
    return [replace(line, was=_find_last(line, last)) for line in lines]


def _find_last(line: SetLine, last: Mapping[str, str] | None) -> str:
    before = "" if line.key in _NEVER_LEFT else (last or {}).get(line.key, "")
    return before if before and before != line.setting else ""


def _build_line(
    key: str, figures: tuple[DialFigure, ...], text: str, fix: str = "", missing: bool = False
) -> SetLine:
    row = catalogue.set_up_lines()[key]
    return SetLine(key, row.name, figures, text, fix or row.note, missing=missing)


def _describe_metal(plan: Plan, units: str) -> str:
    gap = format_figure(plan.fit_up, "max_gap_mm", units)
    # The last reason is the preparation.
    before = (
        plan.fit_up.why[-1].sentence.text(units)
        if plan.fit_up.why
        else "Deburr, strip, degrease, wipe the rod."
    )
    return f"{before} Maximum gap {gap}."


def _list_torch_lines(plan: Plan, units: str) -> list[SetLine]:
    """Return a line for each part in the order of assembly.

    An older plan has one for the front end.
    """
    if not plan.shop.build:
        torch = plan.torch
        front = _build_line(
            "front", (DialFigure("cup", "Cup", f"no. {torch.cup}"),), torch.front_end_name
        )
        return [front, _build_tungsten_line(plan, units)]
    return [
        _build_part_line(i, p, units)
        if p.part in _PART_LINES
        else _build_tungsten_line(plan, units, i, p.owned is False)
        for i, p in enumerate(plan.shop.build, 1)
    ]


def _build_part_line(number: int, part: BuildPart, units: str) -> SetLine:
    """Return the line of a part.

    Its description is its label.
    """
    check = part.check_in if units == "in" else part.check
    line = _build_line(_PART_LINES[part.part], (), "", check, part.owned is False)
    return replace(line, name=f"{number}. {_part_text(part, units)}")


def _part_text(part: BuildPart, units: str) -> str:
    text = part.text_in if units == "in" else part.text
    return f"{text}, out of stock" if part.owned is False else text


def _build_tungsten_line(plan: Plan, units: str, number: int = 0, missing: bool = False) -> SetLine:
    t, torch = plan.tungsten, plan.torch
    out = (
        format_figure(torch, "toe_stickout_mm", units) if torch.toe_stickout_mm is not None else ""
    )
    flat = f", flat {format_figure(t, 'tip_flat_mm', units)}" if t.tip_flat_mm else ", no flat"
    figures = (
        DialFigure(
            "tungsten",
            "",
            format_figure(t, "diameter_mm", units),
            "",
            f"{t.colour}, {format_figure(t, 'included_angle_deg', units)}{flat}",
        ),
        DialFigure(
            "out",
            "Stick-out",
            format_figure(torch, "stickout_mm", units),
            "",
            f"sound to {format_figure(torch, 'stickout_limit_mm', units)}"
            + (f"; {out} at the toe" if out else ""),
        ),
    )
    line = _build_line(
        "tungsten",
        figures,
        t.type_name + (", out of stock" if missing else ""),
        missing=missing,
    )
    return replace(line, name=f"{number}. {line.name}") if number else line


def _list_machine_lines(card: Dial, plan: Plan, units: str) -> list[SetLine]:
    """Return the machine settings in order."""
    by_key = {f.key: f for f in card.machine}
    control = str(plan.joint.get("control", ""))
    held = {"pedal": "full pedal", "slide": "full slide"}.get(control, "")
    lines = [
        _build_line(
            "set",
            (replace(by_key["set"], label=""),),
            ", ".join(word for word in (plan.shop.machine, held) if word),
        )
    ]
    if "rate" in by_key:
        lines.append(
            _build_line(
                "pulse",
                (replace(by_key["rate"], label=""), by_key["on"], by_key["background"]),
                plan.pulse.pattern_name,
            )
        )
    else:
        pulse = by_key["pulse"]
        lines.append(
            _build_line(
                "pulse",
                (replace(pulse, label="", figure="off"),),
                "dabs by pedal, about one per second" if plan.pulse.rate_pps else "",
            )
        )
    if "start" in by_key:
        lines.append(_build_line("slopes", (by_key["start"], by_key["up"], by_key["down"]), ""))
    lines.append(
        _build_line(
            "gas",
            (replace(by_key["gas"], label=""), by_key["before"], by_key["after"]),
            plan.gas.gas,
        )
    )
    return lines


def _back(card: Dial, plan: Plan, units: str) -> SetLine:
    back = next(f for f in card.torch if f.key == "back")
    text = [back.figure]
    if plan.back.bar_lengths:
        text.append(
            f"{format_figure(plan.back, 'bar_from_seam_mm', units)} from the seam, "
            f"{format_count(plan.back.bar_lengths, 'position')} of "
            f"{format_figure(plan.back, 'bar_length_mm', units)}"
        )
    if back.beside:
        text.append(back.beside)
    if plan.back.purge and plan.back.purge.vent_mm and not plan.back.barred:
        text.append(
            f"vent {format_figure(plan.back.purge, 'vent_mm', units)}, "
            "feed at the bottom, vent at the top"
        )
    return _build_line("back", (), "; ".join(text))


def _list_rod_lines(plan: Plan, units: str) -> list[SetLine]:
    f = plan.filler
    if f.rod is None:
        return [_build_line("rod", (), "none, melt the edges together")]
    return [
        _build_line(
            "rod",
            (DialFigure("rod", "", f.rod, "", format_value(f.diameter_mm, "stock", units)),),
            f"{format_count(f.rods, 'rod')}, wiped and ready",
        )
    ]


def _describe_clamp(plan: Plan) -> str:
    texts = [
        plan.technique.polarity,
        plan.start,
        (
            f"work clamp {plan.technique.return_clamp}"
            if plan.technique.return_clamp
            else "work clamp on the work, near the seam"
        ),
    ]
    return "; ".join(word for word in texts if word)


def _build_tack_line(plan: Plan, units: str) -> SetLine:
    t = plan.tacks
    figures = (
        DialFigure("tacks", "", str(t.count), "", f"every {format_figure(t, 'pitch_mm', units)}"),
        DialFigure("tack-set", "Setting", format_amps(t.dial_a), "A", "pulse off"),
    )
    return _build_line(
        "tacks",
        figures,
        (
            f"{format_figure(t, 'length_mm', units)} long, {format_amps(t.current_a)} A. "
            "Then return to the setting of the seam"
        ),
    )


def _describe_protection(plan: Plan, units: str) -> str:
    return " ".join(c.sentence.text(units) for c in plan.cautions if c.at == "harm")
