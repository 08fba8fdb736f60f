"""The plan as plain text for people."""

from __future__ import annotations

import textwrap
from typing import Any

from ..core.joint import joint_from_kept
from .joint_words import sentence_text
from .plan_lines import plan_cautions, plan_lines, summary

WIDTH = 96


def plan_text(plan: dict[str, Any], habit: str = "mm") -> str:
    """A plan's data as text: the joint, cautions, the answers with reasons and marks, what it costs."""
    rows = textwrap.wrap(sentence_text(joint_from_kept(plan["joint"]), habit), WIDTH)
    rows.append("")
    for c in plan_cautions(plan, habit):
        if c.level != "note":
            rows += _wrapped(f"{c.word.upper():<6}", c.text)
    for line in plan_lines(plan, habit):
        rows.append(f"{line.label:<10}{line.what} — {line.detail}" if line.detail else f"{line.label:<10}{line.what}")
        for why in line.why:
            rows += _wrapped(" " * 10, f"{why.text} [{why.short_mark}]")
    rows.append("")
    for c in plan_cautions(plan, habit):
        if c.level == "note":
            rows += _wrapped(f"{c.word:<6}", c.text)
    rows += ["", " · ".join(f"{name} {value}" for name, value in summary(plan, habit))]
    return "\n".join(rows) + "\n"


def _wrapped(first: str, text: str) -> list[str]:
    return textwrap.wrap(text, WIDTH, initial_indent=first, subsequent_indent=" " * len(first))
