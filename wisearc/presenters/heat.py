"""The answers of a field of heat in words and both unit systems."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec
from msgspec import Struct

from ..core import catalogue
from ..core.conduction.limits import RESTART_AFTER_S
from ..core.conduction.verdict import judge_field
from ..core.physics.heat import HOT_BAND_C, SENSITISING_C
from ..core.plan.plan import Plan
from ..core.quantities import Quantity, length, size, temperature
from ..core.reasons import Sentence, StoredText, store_text
from ..drawings.placeholder import draw_placeholder
from ..formats.plan_lines import LEVEL_LABELS
from ..services.heat.goals import Change
from ..services.heat.requests import Proposal

if TYPE_CHECKING:  # They need numpy, and a page is shown without it.
    from ..core.conduction.differences import Difference
    from ..core.conduction.findings import Findings
    from ..core.conduction.outcome import Outcome


class HeatLine(Struct, frozen=True):
    """A line about a field: label, words, and how serious it is ("", "caution" or "stop").

    `mark` is the word for that, or "".
    """

    label: str
    words: StoredText
    level: str = ""
    mark: str = ""


class HeatTexts(Struct, frozen=True):
    """The texts of a page: answers in lines, and differences from the plan."""

    lines: tuple[HeatLine, ...]
    differences: tuple[HeatLine, ...]


class HeatPage(HeatTexts, frozen=True):
    """What a page shows without script: texts, and the still picture by unit system as SVG.

    `paper` is the picture in the colours of paper.
    """

    picture: dict[str, str]
    paper: dict[str, str]


def describe_field(plan: Plan, outcome: Outcome, answers: Findings) -> tuple[HeatLine, ...]:
    """Return the answers of a field as lines, most serious first.

    Args:
        plan: The plan.
        outcome: The field.
        answers: Its answers.
    """
    problem, verdict = outcome.problem, judge_field(outcome, answers)
    lines = []
    for label, stretches, text in (
        (
            "Burn-through",
            answers.burnt_mm,
            "Do not weld: the pool is too wide {places}. The seam can fall out. "
            "Use less current or travel faster.",
        ),
        (
            "Fusion",
            answers.unfused_mm,
            "Do not weld: the seam does not fuse {places}. It can break open. Use more current.",
        ),
    ):
        if stretches:
            lines.append(_build_line(label, text, level="stop", places=_list_places(stretches)))
    if problem.length_mm < plan.section.length_mm - 0.5:
        text = "The first {l} of {s} are calculated. A longer seam repeats its middle."
        seam = length(plan.section.length_mm)
        lines.append(_build_line("Calculated", text, l=length(problem.length_mm), s=seam))
    if problem.arc.max_start_s > 0:
        slow = verdict.forms_slowly
        lines.append(
            _build_line(
                "Start and restart",
                "The pool does not reach its width in {t} s. The start may not fuse."
                if slow
                else "The pool forms in {t} s on cold sheet. Move the torch then.{again}",
                level="caution" if slow else "",
                t=f"{outcome.moving_from_s:.1f}",
                again=_describe_restart(answers),
            )
        )
    pulsed = not problem.arc.train.is_steady
    pool = "At the end of a peak {w} wide and {l} long. " if pulsed else "{w} wide and {l} long."
    if pulsed and answers.freezes_between:
        pool += "It freezes before the next peak."
    elif pulsed:
        pool += "It is still {b} wide before the next peak."
    lines.append(
        _build_line(
            "Pool",
            pool,
            w=size(answers.width_peak_mm),
            l=size(answers.length_peak_mm),
            b=size(answers.width_between_mm),
        )
    )
    if answers.tack_width_mm is not None:
        lines.append(
            _build_line(
                "Over a tack",
                "The melted width falls from {m} to {t}. Melt the tack before you move on.",
                m=size(answers.middle_width_mm),
                t=size(answers.tack_width_mm),
            )
        )
    grows = verdict.grows_at_end
    lines.append(
        _build_line(
            "End of the seam",
            "The melted width grows from {m} to {w}. Use less current over the last {d}."
            if grows
            else "The melted width stays about {w} to the end.",
            level="caution" if answers.burnt_mm and grows else "",
            m=size(answers.middle_width_mm),
            w=size(answers.end_width_mm),
            d=length(max(5.0, 2 * answers.width_peak_mm)),
        )
    )
    tints = catalogue.load_tints()
    front, worst = tints[answers.tint_front].name, tints[answers.worst_front].name
    lines.append(
        _build_line(
            "Front",
            "{tint}, and {worst} at the ends." if worst != front else "{tint} all along.",
            tint=front.capitalize(),
            worst=worst,
        )
    )
    lines.append(
        _build_line(
            "Back",
            "{tint}, {why}.",
            tint=tints[answers.tint_back].name.capitalize(),
            why="covered" if problem.back_covered else "bare",
        )
    )
    lines.append(
        _build_line(
            "Heat-tint width",
            "The sheet exceeds {c} over {w}. The seam is above {h} for {s} s.",
            c=temperature(HOT_BAND_C),
            w=size(answers.hot_band_mm),
            h=temperature(SENSITISING_C),
            s=f"{answers.over_600_s:.1f}",
        )
    )
    glow_s, post_s = answers.glow_after_stop_s, problem.postflow_s
    longer_s = verdict.postflow_s
    lines.append(
        _build_line(
            "After the arc",
            "The red heat ends after {g} s, within the {p} s of post-flow."
            if verdict.is_covered
            else "The red heat ends after {g} s, about as long as the {p} s of post-flow."
            if longer_s is None
            else "The red heat lasts {g} s, longer than the {p} s of post-flow. The end oxidises. "
            "Set a post-flow of {n} s.",
            level="" if longer_s is None else "caution",
            g=f"{glow_s:.1f}",
            p=f"{post_s:g}",
            n=f"{longer_s or 0.0:g}",
        )
    )
    lines.append(_describe_wait(outcome, answers))
    barred = answers.bar_share > 0.005
    lines.append(
        _build_line(
            "Shrinkage force",
            "About {f} kN along the seam."
            + (" The bars remove {b} % of the heat." if barred else ""),
            f=f"{answers.tendon_kn:.1f}",
            b=f"{100 * answers.bar_share:.0f}",
        )
    )
    return tuple(sorted(lines, key=lambda line: ("stop", "caution", "").index(line.level)))


def _describe_restart(answers: Findings) -> str:
    """Return the wait at a restart in words, or nothing."""
    if answers.restart_s is None:
        return ""
    return f" After a stop of {RESTART_AFTER_S:.0f} s it forms in {answers.restart_s:.1f} s."


def _describe_wait(outcome: Outcome, answers: Findings) -> HeatLine:
    """Return the mean temperature at the end, and when the next seam may start."""
    limit = temperature(outcome.problem.interpass_c)
    wait = answers.wait_s
    text = "The part ends at a mean of {m}. "
    text += (
        "It does not fall below {c} in the calculated time."
        if wait is None
        else "The next seam can start at once, below {c}."
        if wait < 1
        else "The next seam can start after {t}, below {c}."
    )
    return _build_line(
        "Next seam",
        text,
        m=temperature(answers.mean_end_c),
        c=limit,
        t=Quantity(wait or 0.0, "duration"),
    )


def _build_line(label: str, text: str, level: str = "", **figures: Quantity | str) -> HeatLine:
    words = store_text(Sentence(text, **figures))
    return HeatLine(label, words, level, LEVEL_LABELS.get(level, ""))


def _list_places(stretches: tuple[tuple[float, float], ...]) -> str:
    """Return stretches in words, mm along the seam; many as one range."""
    if len(stretches) > 3:
        return f"at {len(stretches)} places from {stretches[0][0]:.0f} to {stretches[-1][1]:.0f} mm"
    return " and ".join(
        f"from {low:.0f} to {high:.0f} mm" if high - low >= 1 else f"at {low:.0f} mm"
        for low, high in stretches
    )


def build_texts(lines: tuple[HeatLine, ...], differences: tuple[Difference, ...]) -> HeatTexts:
    """Return the lines and the differences from the plan as texts of a page.

    Args:
        lines: The lines.
        differences: The differences.
    """
    text = "{planned} in the plan, {found} in the field. {why}"
    return HeatTexts(
        lines,
        tuple(
            _build_line(d.label, text, planned=d.planned, found=d.field, why=d.why)
            for d in differences
        ),
    )


def read_page(body: str) -> HeatPage:
    """Return the page of an answer.

    Args:
        body: The answer as JSON text.
    """
    return msgspec.json.decode(body, type=HeatPage)


def draw_missing_picture(error: str) -> str:
    """Return a picture with a sentence, as SVG, where a sheet has no picture of its heat.

    Args:
        error: Why there is none, or "" while it is calculated.
    """
    waits = "The heat is still being calculated. Load the page again for its picture."
    return draw_placeholder("Heat of the seam", error or waits).svg


def describe_proposal(proposal: Proposal, changes: Sequence[Change]) -> str:
    """Return the answer to a goal in words.

    Args:
        proposal: The answer.
        changes: The changes that were tried.
    """
    if proposal.already:
        return "The plan already reaches this. No change is needed."
    change = proposal.find_change(changes)
    if change is None:
        return (
            "None of the small changes reaches this and still fuses. Clamp closer bars, weld "
            "shorter runs, or use a larger part."
        )
    return f"{change.words} {change.cost}"
