"""The plan as plain text for people."""

from __future__ import annotations

import textwrap

from ..core.joint.words import sentence_text
from ..core.plan.plan import Plan
from ..core.sources import short_mark
from .plan_dial import dial
from .plan_lines import plan_lines, plan_notices, summary

WIDTH = 96


def plan_text(plan: Plan, habit: str = "mm") -> str:
    """A plan as text: the joint, what is set and fitted, cautions, the answers with reasons and
    marks, what is done after, what it costs.
    """
    rows = textwrap.wrap(sentence_text(plan.sentence, habit), WIDTH)
    rows.append("")
    card = dial(plan, habit)
    for figures in (card.machine, card.torch):
        told = (f"{f.label} {f.text}" + (f" ({f.beside})" if f.beside else "") for f in figures)
        rows += _wrapped("    ", " · ".join(told))
    rows += [*_wrapped("    ", card.behind), *_shop(plan, habit), ""]
    notices = plan_notices(plan, habit)
    for n in notices:
        if n.level != "note":
            rows += _wrapped(f"{n.word.upper():<9}", n.text)
    for line in plan_lines(plan, habit):
        rows += _wrapped(
            f"{line.label:<14}", f"{line.what} — {line.detail}" if line.detail else line.what
        )
        for why in line.why:
            rows += _wrapped(" " * 14, f"{why.sentence.text(habit)} [{short_mark(why.mark)}]")
    for i, after in enumerate(plan.after):
        label = f"{'Afterwards':<14}" if i == 0 else " " * 14
        rows += _wrapped(label, f"{after.sentence.text(habit)} [{short_mark(after.mark)}]")
    rows.append("")
    for n in notices:
        if n.level == "note":
            rows += _wrapped(f"{n.word:<9}", n.text)
    rows += ["", " · ".join(f"{name} {value}" for name, value in summary(plan, habit))]
    return "\n".join(rows) + "\n"


def _shop(plan: Plan, habit: str) -> list[str]:
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
    return [row for sentence in told for row in _wrapped("    ", sentence)]


def _wrapped(first: str, text: str) -> list[str]:
    return textwrap.wrap(text, WIDTH, initial_indent=first, subsequent_indent=" " * len(first))
