"""The diagnosis of simulated welders with errors: it finds the true cause, and its advice fixes it.

`tests.slips` makes the runs without the diagnosis.
"""

from __future__ import annotations

from collections import Counter
from random import Random
from typing import Any

from tests import samples, schemas, slip_records, slips
from tests.samples import member, plan, typed
from tests.untraced import Untraced
from wisearc.core import catalogue
from wisearc.core.diagnosis.attempts import RecordedRun, build_attempts
from wisearc.core.diagnosis.diagnosis import Before, Reading, diagnose_run
from wisearc.core.history.lessons import build_lesson
from wisearc.core.plan.plan import Plan
from wisearc.core.run.inspection import EDGES, RIPPLES, SIDES
from wisearc.core.run.quality import find_observed
from wisearc.core.run.run import ARC_FIGURES, get_planned_values, run_figures
from wisearc.core.run.saved_reading import SavedReading
from wisearc.core.run.verification import judge_run
from wisearc.core.schema.documents import read_document, write_document
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.reading_json import reading_data, save_reading

RUNS, ATTEMPTS = 500, 3
FIRST, AMONG_THREE, CURED = 0.85, 0.95, 0.90
# The seeds of the final figure. The weights were chosen with other seeds (1 to 20).
FINAL_SEEDS = (101, 102)
# The least share of runs of one slip whose cause is among three.
EACH_SLIP = 0.7


def plans() -> list[Plan]:
    """Plans of every joint, thin and less thin, like and unlike."""
    found = [
        plan(
            of["joint"],
            *of["members"],
            **{k: v for k, v in of.items() if k not in ("joint", "members")},
        )
        for of in samples.EVERY.values()
    ]
    for thickness in ("0.8 mm", "1.2 mm", "2 mm", "2.5 mm"):
        found.append(plan("butt", member(thickness=thickness), length="200 mm"))
        found.append(plan("outside-corner", member("316L", thickness), length="150 mm"))
    found.append(plan("lap", member("430", "1 mm"), length="120 mm"))
    found.append(plan("tee", member("304L", "1 mm"), member("304L", "2 mm"), length="120 mm"))
    found.append(plan("tee", member("310S", "1.5 mm"), member("304L", "2 mm"), length="120 mm"))
    found.append(plan("butt", member("316L", "1.5 mm"), length="300 mm", back="copper-bar"))
    found.append(plan("edge", member("304L", "0.8 mm"), length="300 mm"))
    found.append(plan("butt", member("4130", "1.5 mm"), length="150 mm"))
    found.append(plan("butt", member("409", "1.5 mm"), length="150 mm"))
    return found


def is_fixed(made: Plan, world: slips.World, first: Reading, rng: Random) -> bool:
    """Return whether the advice fixes the flaw within three runs."""
    found, now, before = first, made, list[Before]()
    for _ in range(ATTEMPTS):
        if found.change is None:
            return False
        change = found.change
        now, world = slip_records.follow(now, world, change, rng)
        run = slip_records.written(now, world, slips.weld(now, made, world, rng), rng)
        if judge_run(find_observed(typed(run)), now).verdict != "not-good":
            return True
        before.append(
            Before(
                change.cause, change.code, change.key, change.move.before, change.move.after, True
            )
        )
        found = diagnose_run(typed(run), now, ASSUMED, before)
    return False


class FiveHundredRuns(Untraced):
    def test_cause_is_diagnosed_and_fixed(self) -> None:
        kinds = plans()
        slip_names = sorted({key for made in kinds for key in slips.slips_for(made, Random(1))})
        runs, first, among, cured = Counter[str](), Counter[str](), Counter[str](), 0
        answered, asked, missed = 0, 0, Counter[tuple[str, str]]()
        for rng in map(Random, FINAL_SEEDS):
            for _ in range(RUNS):
                wanted = rng.choice(slip_names)
                made, world, summary, run = weld_with(wanted, kinds, rng)
                found = diagnose_run(typed(run), made, ASSUMED)
                names = [one.cause.key for one in found.causes]
                runs[wanted] += 1
                first[wanted] += names[:1] == [wanted]
                among[wanted] += wanted in names[:3]
                if names[:1] != [wanted]:
                    missed[wanted, names[0] if names else ""] += 1
                cured += is_fixed(made, world, found, rng)
                if found.question is not None and found.question.sign in summary["told"]:
                    asked += 1
                    run["seen"]["told"][found.question.sign] = summary["told"][found.question.sign]
                    again = diagnose_run(typed(run), made, ASSUMED)
                    answered += again.causes[0].cause.key == wanted if again.causes else 0
        # Every slip came up, and none is lost among the others.
        self.assertEqual(set(runs), set(slip_names))
        total = runs.total()
        self.assertEqual(total, RUNS * len(FINAL_SEEDS))
        shares = {key: among[key] / runs[key] for key in runs}
        self.assertGreaterEqual(min(shares.values()), EACH_SLIP, shares)
        self.assertGreaterEqual(first.total() / total, FIRST, missed.most_common(8))
        self.assertGreaterEqual(among.total() / total, AMONG_THREE)
        self.assertGreaterEqual(cured / total, CURED)
        # A correct answer to the question of the diagnosis separates the causes.
        self.assertGreater(asked, total / 10)
        self.assertGreaterEqual(answered / asked, FIRST)


def weld_with(
    wanted: str, kinds: list[Plan], rng: Random
) -> tuple[Plan, slips.World, dict[str, Any], dict[str, Any]]:
    """Return a plan, a world with a slip, its result, and a record in which something shows."""
    for _ in range(1000):
        made = rng.choice(kinds)
        slip = slips.slips_for(made, rng)
        if wanted in slip:
            summary = slips.weld(made, made, slip[wanted], rng)
            run = slip_records.written(made, slip[wanted], summary, rng)
            if judge_run(find_observed(typed(run)), made).has_fault:
                return made, slip[wanted], summary, run
    raise AssertionError(f"{wanted} showed in none of 1000 runs")


class AnyRun(Untraced):
    """Runs that no welder would record: each has a diagnosis that can be saved."""

    def build_random_run(self, made: Plan, rng: Random) -> dict[str, Any]:
        """Return a run with figures far from the plan, without any, or with every observation."""
        run: dict[str, Any] = {
            "when": "2026-01-01",
            "who": "A",
            "good": False,
            "set": {},
            "used": {},
            "faults": rng.sample(list(catalogue.load_flaws()), rng.randint(0, 5)),
        }
        run |= {face: {"colour": rng.choice(colours)} for face, colours in SIDES.items()}
        for key, (value, _) in get_planned_values(made).items():
            part, _, name = key.partition(".")
            if rng.random() < 0.7:
                figure = run_figures()[part][name].entry
                far = value if isinstance(value, str) else value * rng.choice((0.5, 1, 1, 1.5, 3))
                own = isinstance(far, str)
                run[part][name] = far if own else min(max(far, figure.low), figure.high)
        run["used"]["gap_mm"] = rng.choice((None, 0, 1, 5))
        run["measured"] = {
            key: rng.choice((None, 1, 50, 1000)) for key in ("arc_time_s", "length_mm")
        } | {"bead_mm": rng.choice((None, 1, 20))}
        run["arc"] = {
            "by": rng.choice(("log", "timer")),
            **{key: rng.choice((None, 0, 0.5, 7, 90)) for key in ARC_FIGURES},
        }
        if rng.random() < 0.4:
            run["purge"] = {
                "at_arc_ppm": rng.choice((None, 0, 20, 5000)),
                "most_ppm": rng.choice((None, 0, 9)),
                "target_ppm": rng.choice((0, 50)),
            }
        tints = list(catalogue.load_tints())
        run["seen"] = {
            "front_tint": rng.choice(tints),
            "back_tint": rng.choice(tints),
            "edges": rng.choice(list(EDGES)),
            "ripple": rng.choice(list(RIPPLES)),
            "band_mm": rng.choice((None, 0.2, 30)),
            "where": {"grey": rng.choice(("stops", [0, 1], [0.9, 1])), "front": [0, 0]},
            "told": {
                s.key: rng.random() < 0.5
                for s in catalogue.load_signs().values()
                if s.ask and rng.random() < 0.3
            },
        }
        return run

    def test_is_read_and_can_be_kept(self) -> None:
        rng, kinds, before = Random(7), plans(), list[RecordedRun]()
        for i in range(80):
            made = rng.choice(kinds)
            run = self.build_random_run(made, rng)
            found = diagnose_run(typed(run), made, ASSUMED)
            data = reading_data(found)
            schemas.check("reading", data)
            self.assertFalse(found.verdict == "good" and (found.causes or found.change))
            saved = save_reading(found, "B", found.change)
            kept = write_document(saved)
            self.assertEqual(read_document(SavedReading, kept, "reading"), saved)
            head = {
                "format": "wisearc/run",
                "version": 1,
                "when": "2026-01-01",
                "who": "A",
                "good": False,
                "front": {"colour": "silver"},
                "back": {"colour": "silver"},
            }
            schemas.check("run", {**head, "seen": run["seen"], "reading": kept})
            for habit in ("mm", "in"):
                for cause in found.causes:
                    self.assertTrue(
                        all(e.words.text(habit) for e in (*cause.evidence_for, *cause.against))
                    )
            build_lesson(made, typed(run))
            before.append(RecordedRun(i, "A", typed({**run, "reading": kept}), made))
        self.assertEqual(sum(one.best for one in build_attempts(before)), 1)
