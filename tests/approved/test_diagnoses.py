"""Diagnoses of runs: quality, causes, changes, attempts and verification."""

from __future__ import annotations

from typing import Any

from wisearc.core import catalogue
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.attempts import Made, attempts_of
from wisearc.core.diagnosis.changes import Refused, changes_for
from wisearc.core.diagnosis.diagnosis import Reading, read
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.run.closest_look import faults_of, sugared
from wisearc.core.run.quality import observed
from wisearc.core.run.range_check import judged
from wisearc.core.run.run import Run, read_run, why_coupon_fails
from wisearc.core.run.verification import bands_of, not_shown, outside, quality_of, why_not_good
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
        runs, bands = [read_run(run) for run in case["runs"]], bands_of(plan)
        readings = [read(run, plan, ASSUMED) for run in runs]
        made = [Made(i + 1, "A", run, plan) for i, run in enumerate(runs)]
        return {
            "bands": bands,
            "readings": [_remove_inches(reading_data(reading)) for reading in readings],
            "signs": [{k: sign.strength for k, sign in r.told.items()} for r in readings],
            "changes": _calculate_changes(plan, runs[0], readings[0])
            if case.get("changes")
            else (),
            "qualities": [quality_of(observed(run), plan) for run in runs],
            "outside": [(outside(run, bands, plan), judged(run, bands, plan)) for run in runs],
            "proof": [
                (not_shown(run), why_not_good(run, plan), why_coupon_fails(run.coupon))
                for run in runs
            ],
            "seen": [(faults_of(run), sugared(run)) for run in runs],
            "attempts": [
                (one.verdict, one.change, one.differs, one.wrong, one.again, one.best, one.said)
                for one in attempts_of(made)
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
            for one in changes_for(key, actual, reading.told)
        ]
        for key in catalogue.causes()
    }


def _remove_inches(value: Any) -> Any:
    """Remove the text in inches."""
    if isinstance(value, dict):
        return {key: _remove_inches(inner) for key, inner in value.items() if key not in REMOVED}
    return [_remove_inches(inner) for inner in value] if isinstance(value, list) else value
