"""The last work in the demo library, with its state in words."""

from __future__ import annotations

from tests.store_case import StoreCase
from wisearc.services.jobs import jobs
from wisearc.services.maintenance.demo import fill_if_empty
from wisearc.services.start.recent_work import list_recent_work
from wisearc.store import queries


class Recent(StoreCase):
    def test_states_of_the_demo(self) -> None:
        fill_if_empty(self.store)
        jobs.begin("Bracket", "")
        works = list_recent_work(40)
        states = {work.label: work.state for work in works}
        self.assertEqual(states["Mast head × 2"], "26 welds, not started")
        # The title of one piece has no number.
        self.assertEqual(states["Bracket"], "no seams yet")
        self.assertEqual(states["P-0008 A"], "draft, not set up yet")
        for number in range(1, 8):
            revision = queries.get_revision(f"P-000{number}")
            state = states[f"P-000{number} {revision.letter}"]
            good = sum(run.good for run in revision.runs)
            self.assertEqual(state.startswith("verified, "), revision.status == "proved")
            self.assertIn(f"{good} of {len(revision.runs)} run", state)
        times = [work.at for work in works]
        self.assertEqual(times, sorted(times, reverse=True))
        self.assertEqual(len(list_recent_work()), 6)
        self.assertEqual(list_recent_work(2), works[:2])
