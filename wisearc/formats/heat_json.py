"""A calculated field of heat as `wisearc/heat` JSON, and the history of its probes as CSV."""

from __future__ import annotations

import csv
import io

from ..core.conduction.differences import Difference
from ..core.conduction.findings import Findings
from ..core.conduction.outcome import Outcome
from ..core.schema.json_types import Json

FORMAT, VERSION = "wisearc/heat", 1


def write_heat(
    outcome: Outcome, answers: Findings, differences: tuple[Difference, ...], run_s: float
) -> dict[str, Json]:
    """Return a field as data.

    Args:
        outcome: The field.
        answers: Its answers.
        differences: Figures that differ from the plan.
        run_s: Time of the calculation, s.
    """
    problem = outcome.problem
    arc = problem.arc
    return {
        "format": FORMAT,
        "version": VERSION,
        "model": "field",
        "grid_mm": problem.grid_mm,
        "step_s": round(outcome.step_s, 6),
        "cells": outcome.peak_c.shape[0] * outcome.peak_c.shape[1],
        "run_s": round(run_s, 3),
        "energy_balance_pct": round(100 * outcome.balance, 6),
        "arc": {
            "peak_a": round(arc.peak_a, 1),
            "mean_a": round(arc.peak_a * arc.train.mean, 1),
            "travel_mm_s": round(arc.travel_mm_s, 3),
            "length_mm": round(problem.length_mm, 1),
            "width_mm": round(max(strip.width_mm for strip in problem.strips), 1),
            "bar_from_mm": next(
                (round(s.bar_from_mm, 1) for s in problem.strips if s.bar_from_mm is not None),
                None,
            ),
        },
        "pool": {
            "width_peak_mm": round(answers.width_peak_mm, 2),
            "length_peak_mm": round(answers.length_peak_mm, 2),
            "width_between_mm": round(answers.width_between_mm, 2),
            "freezes_between": answers.freezes_between,
            "width_on_tack_mm": None
            if answers.tack_width_mm is None
            else round(answers.tack_width_mm, 2),
            "width_along_mm": [[x, width] for x, width in answers.width_along_mm],
        },
        "hot_band_mm": round(answers.hot_band_mm, 1),
        "glow_after_stop_s": round(answers.glow_after_stop_s, 1),
        "over_600_s": round(answers.over_600_s, 1),
        "tint_front": answers.tint_front,
        "tint_back": answers.tint_back,
        "tint_front_worst": answers.worst_front,
        "burns_through": answers.burns_through,
        "burnt_mm": [list(stretch) for stretch in answers.burnt_mm],
        "fuses": answers.fuses,
        "unfused_mm": [list(stretch) for stretch in answers.unfused_mm],
        "mean_end_c": round(answers.mean_end_c, 1),
        "wait_s": None if answers.wait_s is None else round(answers.wait_s, 1),
        "restart_s": None if answers.restart_s is None else round(answers.restart_s, 2),
        "tendon_kn": round(answers.tendon_kn, 2),
        "bar_share_pct": round(100 * answers.bar_share, 1),
        "probes": [
            {
                "x_mm": probe.x_mm,
                "y_mm": probe.y_mm,
                "max_c": round(probe.max_c, 1),
                "over_600_s": round(probe.over_600_s, 2),
            }
            for probe in answers.probes
        ],
        "differs": [
            {
                "figure": difference.label,
                "planned": difference.planned.text(),
                "field": difference.field.text(),
                "why": difference.why,
            }
            for difference in differences
        ],
    }


def write_probes_csv(outcome: Outcome) -> str:
    """Return the history of the probes as CSV with a header, RFC 4180."""
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(("time_s", "x_mm", "y_mm", "temperature_c"))
    for i, (x, y) in enumerate(outcome.problem.probes_mm, start=1):
        for row in outcome.history:
            writer.writerow((f"{row[0]:.3f}", f"{x:g}", f"{y:g}", f"{row[i]:.1f}"))
    return text.getvalue()
