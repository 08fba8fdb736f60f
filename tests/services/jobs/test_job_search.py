"""Order search of a job in the background, and the job of the demo."""

from __future__ import annotations

import json
import sys
import time
from pathlib import Path
from typing import Any
from unittest.mock import patch

from tests.jobs import FOUR_SEAMS, generated_job
from tests.store_case import StoreCase
from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import build_work
from wisearc.core.shop.shop import ASSUMED
from wisearc.presenters import jobs as job_view
from wisearc.services.background import Background
from wisearc.services.jobs import jobs
from wisearc.services.jobs.job_plans import limit_seconds, plan_seams
from wisearc.services.jobs.order_searches import Searches


class Searched(StoreCase):
    def test_large_job_is_answered_quickly_and_improved(self) -> None:
        """A hundred and twenty seams.

        The first answer in a moment, the rest in another process, stopped when asked; whoever asks
        again sees the same.
        """
        made = make_job(generated_job(120, 2))
        work = build_work(made, plan_seams(made, ASSUMED))
        searches = Searches(Background())
        self.addCleanup(searches.close)
        # With a manual order there is no search; without it, there is.
        search = searches.ask(work)
        self.assertFalse(search.going)
        self.assertTrue(searches.begin_once(search))
        self.assertTrue(search.going)
        self.assertIs(searches.ask(work), search)
        first = search.cost_s
        until = time.monotonic() + 240
        while not search.improvements and search.going and time.monotonic() < until:
            time.sleep(0.05)
        self.assertTrue(search.improvements)
        self.assertLess(search.cost_s, first)
        searches.stop(search)
        self.assertEqual(search.state, "stopped")
        # stopped it stays, whoever looks
        self.assertFalse(searches.begin_once(searches.ask(work)))
        self.assertFalse(search.going)
        best = search.best
        time.sleep(0.3)
        self.assertIs(search.best, best)
        searches.begin(search)
        self.assertTrue(search.going)

    def test_a_search_slow_to_end_does_not_end_the_next(self) -> None:
        """Stopped and started again while the old process ends.

        The new search continues.
        """
        made = make_job(generated_job(24, 2))
        searches = Searches(Background())
        self.addCleanup(searches.close)
        scripts = []
        for name in ("old", "new"):
            script = Path(self.folder) / name
            script.write_text(
                f"#!/bin/sh\ntrap '' TERM\nwhile [ ! -e '{script}.end' ]; do sleep 0.02; done\n",
                encoding="utf-8",
            )
            script.chmod(0o755)
            scripts.append(script)

        def until(holds: Any) -> None:
            limit = time.monotonic() + 120
            while not holds() and time.monotonic() < limit:
                time.sleep(0.01)
            self.assertTrue(holds())

        with patch.object(sys, "executable", str(scripts[0])):
            search = searches.ask(build_work(made, plan_seams(made, ASSUMED)))
            searches.begin(search)
            until(lambda: search.state == "runs")
        old = search.process
        searches.stop(search)
        with patch.object(sys, "executable", str(scripts[1])):
            searches.begin(search)
            until(lambda: search.state == "runs" and search.process is not old)
        Path(f"{scripts[0]}.end").touch()
        old.wait(30)
        time.sleep(0.2)
        self.assertEqual(search.state, "runs")
        Path(f"{scripts[1]}.end").touch()
        until(lambda: search.state == "done")
        self.assertIsNone(search.process)

    def test_time_counts_from_the_first_question(self) -> None:
        """Two searches one after the other have their time each."""
        go_on = limit_seconds(0.05)
        time.sleep(0.08)
        self.assertTrue(go_on())
        time.sleep(0.06)
        self.assertFalse(go_on())

    def test_small_ones_are_proved_at_once(self) -> None:
        made = make_job(FOUR_SEAMS)
        search = Searches(Background()).ask(build_work(made, plan_seams(made, ASSUMED)))
        self.assertEqual((search.state, search.best.proved, search.going), ("proved", True, False))


class Demo(StoreCase):
    def test_the_mast_exercises_all_of_it(self) -> None:
        from wisearc.services.maintenance.demo import fill_if_empty

        fill_if_empty(self.store)
        row = jobs.open_jobs()[0]
        made = make_job(row.data)
        example = json.loads(
            (Path(__file__).parents[3] / "examples" / "jobs" / "mast-head.json").read_text(
                encoding="utf-8"
            )
        )
        self.assertGreaterEqual(len(made.seams), 12)
        self.assertGreaterEqual(len(made.parts), 6)
        self.assertTrue(
            any(s.hides for s in made.seams)
            and any(s.after for s in made.seams)
            and not all(s.seen for s in made.seams)
        )
        view = job_view.build_job_view(row, ASSUMED, Searches(Background()), "mm")
        touched = {t for r in view.rungs for t, _ in r.touched}
        self.assertEqual(touched, {"dial", "torch", "clamp"})
        self.assertEqual(
            {t.clamped.behind for t in view.plan.work.tasks.values()}, {"bars", "purge"}
        )
        self.assertGreater(view.plan.one.items.wait_s, 0)
        self.assertEqual(
            make_job({k: v for k, v in example.items() if k not in ("format", "version")}), made
        )
