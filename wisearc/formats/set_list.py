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
from ..core.quantities import amps_of, counted
from ..core.schema.figures import in_words, shown
from .plan_dial import Dial, DialFigure, dial

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
    card = dial(plan, habit)
    lines = [
        _line("metal", (), _metal(plan, habit)),
        *_torch(plan, habit),
        *_machine(card, plan, habit),
        _back(card, plan, habit),
        *_rod(plan, habit),
        _line("clamp", (), _clamp(plan)),
        _tacks(plan, habit),
        _line("protection", (), _protection(plan, habit)),
    ]
    return [replace(line, was=_was(line, last)) for line in lines]


def _was(line: SetLine, last: Mapping[str, str] | None) -> str:
    before = "" if line.key in _NEVER_LEFT else (last or {}).get(line.key, "")
    return before if before and before != line.told else ""


def _line(
    key: str, figures: tuple[DialFigure, ...], text: str, not_so: str = "", missing: bool = False
) -> SetLine:
    row = catalogue.set_up_lines()[key]
    return SetLine(key, row.name, figures, text, not_so or row.note, missing=missing)


def _metal(plan: Plan, habit: str) -> str:
    gap = shown(plan.fit_up, "max_gap_mm", habit)
    # the last of its reasons is what is done before
    before = (
        plan.fit_up.why[-1].sentence.text(habit)
        if plan.fit_up.why
        else "Deburr, strip, degrease, wipe the rod."
    )
    return f"{before} Maximum gap {gap}."


def _torch(plan: Plan, habit: str) -> list[SetLine]:
    """A line a part, in the order in which they go together; one for the front end where a plan was
    kept before its parts were told.
    """
    if not plan.shop.build:
        torch = plan.torch
        front = _line(
            "front", (DialFigure("cup", "Cup", f"no. {torch.cup}"),), torch.front_end_name
        )
        return [front, _tungsten(plan, habit)]
    return [
        _part(i, p, habit) if p.part in _PART_LINES else _tungsten(plan, habit, i, p.owned is False)
        for i, p in enumerate(plan.shop.build, 1)
    ]


def _part(number: int, part: BuildPart, habit: str) -> SetLine:
    """A part's line: its own words are its name."""
    check = part.check_in if habit == "in" else part.check
    line = _line(_PART_LINES[part.part], (), "", check, part.owned is False)
    return replace(line, name=f"{number}. {_part_text(part, habit)}")


def _part_text(part: BuildPart, habit: str) -> str:
    text = part.text_in if habit == "in" else part.text
    return f"{text}, out of stock" if part.owned is False else text


def _tungsten(plan: Plan, habit: str, number: int = 0, missing: bool = False) -> SetLine:
    t, torch = plan.tungsten, plan.torch
    out = shown(torch, "toe_stickout_mm", habit) if torch.toe_stickout_mm is not None else ""
    flat = f", flat {shown(t, 'tip_flat_mm', habit)}" if t.tip_flat_mm else ", no flat"
    figures = (
        DialFigure(
            "tungsten",
            "",
            shown(t, "diameter_mm", habit),
            "",
            f"{t.colour}, {shown(t, 'included_angle_deg', habit)}{flat}",
        ),
        DialFigure(
            "out",
            "Stick-out",
            shown(torch, "stickout_mm", habit),
            "",
            f"maximum {shown(torch, 'stickout_limit_mm', habit)}"
            + (f"; {out} at the toe" if out else ""),
        ),
    )
    line = _line(
        "tungsten",
        figures,
        t.type_name + (", out of stock" if missing else ""),
        missing=missing,
    )
    return replace(line, name=f"{number}. {line.name}") if number else line


def _machine(card: Dial, plan: Plan, habit: str) -> list[SetLine]:
    """The dial in the order in which one sets it."""
    by_key = {f.key: f for f in card.machine}
    control = str(plan.joint.get("control", ""))
    held = {"pedal": "full pedal", "slide": "full slide"}.get(control, "")
    lines = [
        _line(
            "set",
            (replace(by_key["set"], label=""),),
            ", ".join(word for word in (plan.shop.machine, held) if word),
        )
    ]
    if "rate" in by_key:
        lines.append(
            _line(
                "pulse",
                (replace(by_key["rate"], label=""), by_key["on"], by_key["background"]),
                plan.pulse.pattern_name,
            )
        )
    else:
        pulse = by_key["pulse"]
        lines.append(
            _line(
                "pulse",
                (replace(pulse, label="", figure="off"),),
                "dabs by pedal, about one per second" if plan.pulse.rate_pps else "",
            )
        )
    if "start" in by_key:
        lines.append(_line("slopes", (by_key["start"], by_key["up"], by_key["down"]), ""))
    lines.append(
        _line(
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
            f"{shown(plan.back, 'bar_from_seam_mm', habit)} from the seam, "
            f"{counted(plan.back.bar_lengths, 'position')} of "
            f"{shown(plan.back, 'bar_length_mm', habit)}"
        )
    if back.beside:
        text.append(back.beside)
    if plan.back.purge and plan.back.purge.vent_mm and not plan.back.barred:
        text.append(
            f"vent {shown(plan.back.purge, 'vent_mm', habit)}, feed at the bottom, vent at the top"
        )
    return _line("back", (), "; ".join(text))


def _rod(plan: Plan, habit: str) -> list[SetLine]:
    f = plan.filler
    if f.rod is None:
        return [_line("rod", (), "none, melt the edges together")]
    return [
        _line(
            "rod",
            (DialFigure("rod", "", f.rod, "", in_words(f.diameter_mm, "stock", habit)),),
            f"{counted(f.rods, 'rod')}, wiped and ready",
        )
    ]


def _clamp(plan: Plan) -> str:
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


def _tacks(plan: Plan, habit: str) -> SetLine:
    t = plan.tacks
    figures = (
        DialFigure("tacks", "", str(t.count), "", f"every {shown(t, 'pitch_mm', habit)}"),
        DialFigure("tack-set", "Setting", amps_of(t.dial_a), "A", "pulse off"),
    )
    return _line(
        "tacks",
        figures,
        (
            f"{shown(t, 'length_mm', habit)} long, {amps_of(t.current_a)} A. Then return "
            "to the setting of the seam"
        ),
    )


def _protection(plan: Plan, habit: str) -> str:
    return " ".join(c.sentence.text(habit) for c in plan.cautions if c.at == "harm")
