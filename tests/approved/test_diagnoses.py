"""Diagnoses of runs: quality, causes, changes, attempts and verification."""

from __future__ import annotations

from typing import Any

from wisearc.core import catalogue
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.attempts import RecordedRun, build_attempts
from wisearc.core.diagnosis.changes import Refused, list_changes
from wisearc.core.diagnosis.diagnosis import Reading, diagnose_run
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.run.latest_inspection import find_flaws, is_oxidised
from wisearc.core.run.quality import find_observed
from wisearc.core.run.range_check import judge_ranges
from wisearc.core.run.run import Run, explain_coupon_failure, read_run
from wisearc.core.run.verification import (
    build_ranges,
    explain_missing,
    explain_not_good,
    find_outside,
    judge_run,
)
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.reading_json import reading_data

from .approval import ApprovedCase

REMOVED = ("text_in", "format", "version")


class Diagnoses(ApprovedCase):
    """A case is a joint with its runs in order. `changes` requests all changes for all causes."""

    name = "diagnoses"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate the diagnosis of each run and the results of the changes between runs."""
        plan = make_plan(make_joint(case["joint"]), ASSUMED)
        runs, bands = [read_run(run) for run in case["runs"]], build_ranges(plan)
        readings = [diagnose_run(run, plan, ASSUMED) for run in runs]
        made = [RecordedRun(i + 1, "A", run, plan) for i, run in enumerate(runs)]
        return {
            "bands": bands,
            "readings": [_remove_inches(reading_data(reading)) for reading in readings],
            "signs": [{k: sign.strength for k, sign in r.told.items()} for r in readings],
            "changes": _calculate_changes(plan, runs[0], readings[0])
            if case.get("changes")
            else (),
            "qualities": [judge_run(find_observed(run), plan) for run in runs],
            "outside": [
                (find_outside(run, bands, plan), judge_ranges(run, bands, plan)) for run in runs
            ],
            "proof": [
                (
                    explain_missing(run),
                    explain_not_good(run, plan),
                    explain_coupon_failure(run.coupon),
                )
                for run in runs
            ],
            "seen": [(find_flaws(run), is_oxidised(run)) for run in runs],
            "attempts": [
                (one.verdict, one.change, one.differs, one.wrong, one.again, one.best, one.said)
                for one in build_attempts(made)
            ],
        }

    def test_diagnoses_are_as_approved(self) -> None:
        """Changes in a diagnosis are detected."""
        self.check()


def _calculate_changes(plan: Plan, run: Run, reading: Reading) -> Any:
    """Calculate all changes for all causes, or the caution that rules a change out."""
    actual = Actual(plan, run, ASSUMED)
    return {
        key: [
            (one.code, one.caution.code)
            if isinstance(one, Refused)
            else (one.code, one.move.before, one.move.after, one.sets, one.said)
            for one in list_changes(key, actual, reading.told)
        ]
        for key in catalogue.load_causes()
    }


def _remove_inches(value: Any) -> Any:
    """Remove the text in inches."""
    if isinstance(value, dict):
        return {key: _remove_inches(inner) for key, inner in value.items() if key not in REMOVED}
    return [_remove_inches(inner) for inner in value] if isinstance(value, list) else value
