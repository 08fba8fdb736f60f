"""The plan as plain text for people."""

from __future__ import annotations

import textwrap

from ..core.joint.words import sentence_text
from ..core.plan.plan import Plan
from ..core.sources import format_short_mark
from .plan_dial import build_dial
from .plan_lines import build_summary, plan_lines, plan_notices

WIDTH = 96


def plan_text(plan: Plan, habit: str = "mm") -> str:
    """A plan as text: the joint, what is set and fitted, cautions, the answers with reasons and
    marks, what is done after, what it costs.
    """
    rows = textwrap.wrap(sentence_text(plan.sentence, habit), WIDTH)
    rows.append("")
    card = build_dial(plan, habit)
    for figures in (card.machine, card.torch):
        told = (f"{f.label} {f.text}" + (f" ({f.beside})" if f.beside else "") for f in figures)
        rows += _wrap_text("    ", " · ".join(told))
    rows += [*_wrap_text("    ", card.behind), *_describe_stock(plan, habit), ""]
    notices = plan_notices(plan, habit)
    for n in notices:
        if n.level != "note":
            rows += _wrap_text(f"{n.word.upper():<9}", n.text)
    for line in plan_lines(plan, habit):
        rows += _wrap_text(
            f"{line.label:<14}", f"{line.what} — {line.detail}" if line.detail else line.what
        )
        for why in line.why:
            rows += _wrap_text(
                " " * 14, f"{why.sentence.text(habit)} [{format_short_mark(why.mark)}]"
            )
    for i, after in enumerate(plan.after):
        label = f"{'Afterwards':<14}" if i == 0 else " " * 14
        rows += _wrap_text(label, f"{after.sentence.text(habit)} [{format_short_mark(after.mark)}]")
    rows.append("")
    for n in notices:
        if n.level == "note":
            rows += _wrap_text(f"{n.word:<9}", n.text)
    rows += ["", " · ".join(f"{name} {value}" for name, value in build_summary(plan, habit))]
    return "\n".join(rows) + "\n"


def _describe_stock(plan: Plan, habit: str) -> list[str]:
    """What of it the shop has: machine and torch, what was taken instead and why, what is short."""
    shop, inch = plan.shop, habit == "in"
    if not shop.entered:
        return []
    told = [f"With {shop.machine or 'an assumed machine'} and {shop.torch or 'an assumed torch'}."]
    for i in shop.instead:
        used, wanted, why = (
            (i.used_in, i.wanted_in, i.why_in) if inch else (i.used, i.wanted, i.why)
        )
        told.append(f"{used} instead of {wanted}: {why.rstrip('.')}.")
    for s in shop.short:
        there = f"{s.need:g} {s.unit} needed, {s.have:g} in stock" if s.have else "none in stock"
        told.append(f"Not enough {s.item_in if inch else s.item}: {there}.")
    return [row for sentence in told for row in _wrap_text("    ", sentence)]


def _wrap_text(first: str, text: str) -> list[str]:
    return textwrap.wrap(text, WIDTH, initial_indent=first, subsequent_indent=" " * len(first))
