"""What runs say of themselves: verdict, causes, changes, attempts, and whether they verify."""

from __future__ import annotations

from typing import Any

from wisearc.core.diagnosis.attempts import Made, attempts_of
from wisearc.core.diagnosis.diagnosis import read
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.run.closest_look import faults_of, sugared
from wisearc.core.run.quality import observed
from wisearc.core.run.range_check import judged
from wisearc.core.run.run import read_run, why_coupon_fails
from wisearc.core.run.verification import bands_of, not_shown, outside, quality_of, why_not_good
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.reading_json import reading_data

from .approval import ApprovedCase

WORDS = ("text_in", "format", "version")


class Diagnoses(ApprovedCase):
    """A case is a joint and the runs that were made of it, one after the other."""

    name = "diagnoses"

    @classmethod
    def result(cls, case: Any) -> Any:
        """The reading of each run, and what came of the changes between them."""
        plan = make_plan(make_joint(case["joint"]), ASSUMED)
        runs, bands = [read_run(run) for run in case["runs"]], bands_of(plan)
        made = [Made(i + 1, "A", run, plan) for i, run in enumerate(runs)]
        return {
            "bands": bands,
            "readings": [_shorten(reading_data(read(run, plan, ASSUMED))) for run in runs],
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
        """A cause or a change that a run no longer gives is seen."""
        self.check()


def _shorten(value: Any) -> Any:
    """A reading without its second wording."""
    if isinstance(value, dict):
        return {key: _shorten(inner) for key, inner in value.items() if key not in WORDS}
    return [_shorten(inner) for inner in value] if isinstance(value, list) else value
