"""The set-up as a list to tick, in the order of the bench: what is fitted, set and laid, each line
with what to do where it is not so.

From the plan alone, made or kept; what differs from the last set-up is told line by line.
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

# what is done anew for every joint, whatever was set before
_NEVER_LEFT = ("metal", "clamp", "protection")
# which line of the list a part of the build stands in
_PART_LINES = {
    "heat-shield": "ring",
    "collet-body": "body",
    "gas-lens": "body",
    "cup": "cup",
    "collet": "collet",
    "back-cap": "back-cap",
}


class SetLine(Struct, frozen=True):
    """A line: its key and name; its figures, large; what stands beside them; what to do where it is
    not so; what it was in the last set-up, "" where that was the same or there was none; whether
    the part is missing from the shelf.
    """

    key: str
    name: str
    figures: tuple[DialFigure, ...]
    text: str
    not_so: str
    was: str = ""
    missing: bool = False

    @property
    def told(self) -> str:
        """What of it is set or fitted, in one piece, as the next set-up tells it."""
        parts = [
            " ".join(word for word in (f.label, f.text, f.beside) if word) for f in self.figures
        ]
        return "; ".join(parts) or self.text or self.name.partition(". ")[2]


def set_list(plan: Plan, habit: str = "mm", last: Mapping[str, str] | None = None) -> list[SetLine]:
    """The list of a plan. Parameters: plan, made or kept; habit; last, what each line told in the
    last set-up, by key.
    """
    card = build_dial(plan, habit)
    lines = [
        _build_line("metal", (), _describe_metal(plan, habit)),
        *_list_torch_lines(plan, habit),
        *_list_machine_lines(card, plan, habit),
        _back(card, plan, habit),
        *_list_rod_lines(plan, habit),
        _build_line("clamp", (), _describe_clamp(plan)),
        _build_tack_line(plan, habit),
        _build_line("protection", (), _describe_protection(plan, habit)),
    ]
    return [replace(line, was=_find_last(line, last)) for line in lines]


def _find_last(line: SetLine, last: Mapping[str, str] | None) -> str:
    before = "" if line.key in _NEVER_LEFT else (last or {}).get(line.key, "")
    return before if before and before != line.told else ""


def _build_line(
    key: str, figures: tuple[DialFigure, ...], text: str, not_so: str = "", missing: bool = False
) -> SetLine:
    row = catalogue.set_up_lines()[key]
    return SetLine(key, row.name, figures, text, not_so or row.note, missing=missing)


def _describe_metal(plan: Plan, habit: str) -> str:
    gap = format_figure(plan.fit_up, "max_gap_mm", habit)
    # the last of its reasons is what is done before
    before = (
        plan.fit_up.why[-1].sentence.text(habit)
        if plan.fit_up.why
        else "Deburr, strip, degrease, wipe the rod."
    )
    return f"{before} Maximum gap {gap}."


def _list_torch_lines(plan: Plan, habit: str) -> list[SetLine]:
    """A line a part, in the order in which they go together; one for the front end where a plan was
    kept before its parts were told.
    """
    if not plan.shop.build:
        torch = plan.torch
        front = _build_line(
            "front", (DialFigure("cup", "Cup", f"no. {torch.cup}"),), torch.front_end_name
        )
        return [front, _build_tungsten_line(plan, habit)]
    return [
        _build_part_line(i, p, habit)
        if p.part in _PART_LINES
        else _build_tungsten_line(plan, habit, i, p.owned is False)
        for i, p in enumerate(plan.shop.build, 1)
    ]


def _build_part_line(number: int, part: BuildPart, habit: str) -> SetLine:
    """A part's line: its own words are its name."""
    check = part.check_in if habit == "in" else part.check
    line = _build_line(_PART_LINES[part.part], (), "", check, part.owned is False)
    return replace(line, name=f"{number}. {_part_text(part, habit)}")


def _part_text(part: BuildPart, habit: str) -> str:
    text = part.text_in if habit == "in" else part.text
    return f"{text}, out of stock" if part.owned is False else text


def _build_tungsten_line(plan: Plan, habit: str, number: int = 0, missing: bool = False) -> SetLine:
    t, torch = plan.tungsten, plan.torch
    out = (
        format_figure(torch, "toe_stickout_mm", habit) if torch.toe_stickout_mm is not None else ""
    )
    flat = f", flat {format_figure(t, 'tip_flat_mm', habit)}" if t.tip_flat_mm else ", no flat"
    figures = (
        DialFigure(
            "tungsten",
            "",
            format_figure(t, "diameter_mm", habit),
            "",
            f"{t.colour}, {format_figure(t, 'included_angle_deg', habit)}{flat}",
        ),
        DialFigure(
            "out",
            "Stick-out",
            format_figure(torch, "stickout_mm", habit),
            "",
            f"maximum {format_figure(torch, 'stickout_limit_mm', habit)}"
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


def _list_machine_lines(card: Dial, plan: Plan, habit: str) -> list[SetLine]:
    """The dial in the order in which one sets it."""
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


def _back(card: Dial, plan: Plan, habit: str) -> SetLine:
    back = next(f for f in card.torch if f.key == "back")
    text = [back.figure]
    if plan.back.bar_lengths:
        text.append(
            f"{format_figure(plan.back, 'bar_from_seam_mm', habit)} from the seam, "
            f"{format_count(plan.back.bar_lengths, 'position')} of "
            f"{format_figure(plan.back, 'bar_length_mm', habit)}"
        )
    if back.beside:
        text.append(back.beside)
    if plan.back.purge and plan.back.purge.vent_mm and not plan.back.barred:
        text.append(
            f"vent {format_figure(plan.back.purge, 'vent_mm', habit)}, "
            "feed at the bottom, vent at the top"
        )
    return _build_line("back", (), "; ".join(text))


def _list_rod_lines(plan: Plan, habit: str) -> list[SetLine]:
    f = plan.filler
    if f.rod is None:
        return [_build_line("rod", (), "none, melt the edges together")]
    return [
        _build_line(
            "rod",
            (DialFigure("rod", "", f.rod, "", format_value(f.diameter_mm, "stock", habit)),),
            f"{format_count(f.rods, 'rod')}, wiped and ready",
        )
    ]


def _describe_clamp(plan: Plan) -> str:
    told = [
        plan.technique.polarity,
        plan.start,
        (
            f"work clamp {plan.technique.return_clamp}"
            if plan.technique.return_clamp
            else "work clamp on the work, near the seam"
        ),
    ]
    return "; ".join(word for word in told if word)


def _build_tack_line(plan: Plan, habit: str) -> SetLine:
    t = plan.tacks
    figures = (
        DialFigure("tacks", "", str(t.count), "", f"every {format_figure(t, 'pitch_mm', habit)}"),
        DialFigure("tack-set", "Setting", format_amps(t.dial_a), "A", "pulse off"),
    )
    return _build_line(
        "tacks",
        figures,
        (
            f"{format_figure(t, 'length_mm', habit)} long, {format_amps(t.current_a)} A. "
            "Then return to the setting of the seam"
        ),
    )


def _describe_protection(plan: Plan, habit: str) -> str:
    return " ".join(c.sentence.text(habit) for c in plan.cautions if c.at == "harm")
