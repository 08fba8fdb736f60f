"""The plan as plain text."""

from __future__ import annotations

import textwrap

from ..core.joint.words import sentence_text
from ..core.plan.plan import Plan
from ..core.sources import format_short_mark
from .plan_dial import build_dial
from .plan_lines import build_summary, plan_lines, plan_notices

WIDTH = 96


def plan_text(plan: Plan, units: str = "mm") -> str:
    """Return a plan as text.

    Joint, settings and parts, cautions, answers with reasons and evidence, work after welding,
    consumption.

    Args:
        plan: The plan.
        units: Unit system.
    """
    rows = textwrap.wrap(sentence_text(plan.sentence, units), WIDTH)
    rows.append("")
    card = build_dial(plan, units)
    for figures in (card.machine, card.torch):
        texts = (f"{f.label} {f.text}" + (f" ({f.beside})" if f.beside else "") for f in figures)
        rows += _wrap_text("    ", " · ".join(texts))
    rows += [*_wrap_text("    ", card.behind), *_describe_stock(plan, units), ""]
    notices = plan_notices(plan, units)
    for n in notices:
        if n.level != "note":
            rows += _wrap_text(f"{n.word.upper():<9}", n.text)
    for line in plan_lines(plan, units):
        rows += _wrap_text(
            f"{line.label:<14}", f"{line.what} — {line.detail}" if line.detail else line.what
        )
        for why in line.why:
            rows += _wrap_text(
                " " * 14, f"{why.sentence.text(units)} [{format_short_mark(why.mark)}]"
            )
    for i, after in enumerate(plan.after):
        label = f"{'Afterwards':<14}" if i == 0 else " " * 14
        rows += _wrap_text(label, f"{after.sentence.text(units)} [{format_short_mark(after.mark)}]")
    rows.append("")
    for n in notices:
        if n.level == "note":
            rows += _wrap_text(f"{n.word:<9}", n.text)
    rows += ["", " · ".join(f"{name} {value}" for name, value in build_summary(plan, units))]
    return "\n".join(rows) + "\n"


def _describe_stock(plan: Plan, units: str) -> list[str]:
    """Return the stock of the plan: machine and torch, substitutions with reasons, shortages."""
    shop, inch = plan.shop, units == "in"
    if not shop.entered:
        return []
    sentences = [
        f"With {shop.machine or 'an assumed machine'} and {shop.torch or 'an assumed torch'}."
    ]
    for i in shop.instead:
        used, wanted, why = (
            (i.used_in, i.wanted_in, i.why_in) if inch else (i.used, i.wanted, i.why)
        )
        sentences.append(f"{used} instead of {wanted}: {why.rstrip('.')}.")
    for s in shop.short:
        stock_text = (
            f"{s.need:g} {s.unit} needed, {s.have:g} in stock" if s.have else "none in stock"
        )
        sentences.append(f"Not enough {s.item_in if inch else s.item}: {stock_text}.")
    return [row for sentence in sentences for row in _wrap_text("    ", sentence)]


def _wrap_text(first: str, text: str) -> list[str]:
    return textwrap.wrap(text, WIDTH, initial_indent=first, subsequent_indent=" " * len(first))
