"""One torch and one setting for a job: the smallest that is sound, with its effects."""

import unittest
from typing import Any

from msgspec.structs import replace

from tests.jobs import FOOT, RIM, STAY, job, seam
from wisearc.core.jobs.bench_state import Task
from wisearc.core.jobs.job import Job
from wisearc.core.jobs.job_data import make_job
from wisearc.core.run.verification import build_ranges
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.jobs.job_plans import plan_set_up
from wisearc.services.jobs.one_setup import OneSetup

THIN = {**FOOT, "members": [{"metal": "304L", "thickness": "1.4 mm"}] * 2}
THICK = {**FOOT, "members": [{"metal": "304L", "thickness": "3 mm"}] * 2}


def plan(*seams: dict[str, Any], **options: bool) -> tuple[Job, OneSetup]:
    made = replace(make_job(job(*seams)), **options)
    return made, plan_set_up(made, ASSUMED)


class OneTorch(unittest.TestCase):
    def test_no_seam_gets_a_further_caution(self) -> None:
        seams = (seam("c1"), seam("r1", RIM), seam("t1", STAY, ("c", "d")), seam("f1", FOOT))
        made, own = plan(*seams)
        torches = {key: Task(made.seam(key), p).torch for key, p in own.plans.items()}
        self.assertGreater(len(set(torches.values())), 1)
        made, one = plan(*seams, one_torch=True)
        common = {Task(made.seam(key), p).torch for key, p in one.plans.items()}
        self.assertEqual(common, {one.torch})
        self.assertTrue(one.is_equal_quality)
        self.assertEqual(one.torch.cup, min(t.cup for t in torches.values()))
        # No seam has a stop or a caution that its separate plan had not.
        for key, found in one.plans.items():
            before = {c.code for c in own.plans[key].cautions if c.level != "note"}
            self.assertLessEqual({c.code for c in found.cautions if c.level != "note"}, before)

    def test_the_tungsten_of_the_largest_current(self) -> None:
        _, one = plan(seam("a", FOOT), seam("b", THICK, ("c", "d")), one_torch=True)
        assert one.torch is not None
        alone = [plan(seam("x", joint))[1].plans["x"] for joint in (FOOT, THICK)]
        self.assertGreater(alone[1].tungsten.diameter_mm, alone[0].tungsten.diameter_mm)
        self.assertEqual(one.torch.tungsten_mm, alone[1].tungsten.diameter_mm)

    def test_a_seam_with_a_torch_of_its_own_keeps_it(self) -> None:
        pinned = {**FOOT, "pins": {"cup": 14}}
        _, one = plan(seam("a", FOOT), seam("b", pinned, ("c", "d")), one_torch=True)
        assert one.torch is not None
        self.assertTrue(one.torch.cup == 14 or one.refused == ("b",))
        self.assertEqual(one.plans["b"].torch.cup, 14)


class SameSetting(unittest.TestCase):
    def test_seams_within_the_ranges_of_each_other(self) -> None:
        seams = (seam("a", FOOT), seam("b", THIN, ("c", "d")), seam("c", THICK, ("e", "f")))
        made, own = plan(*seams)
        made, one = plan(*seams, same_dial=True)
        dials = {key: Task(made.seam(key), p).dial for key, p in one.plans.items()}
        self.assertEqual(dials["a"], dials["b"])
        self.assertNotEqual(dials["a"], dials["c"])
        for effect in one.effects:
            low, high = build_ranges(own.plans[effect.key])["current_a"]
            current = one.plans[effect.key].current.steady_a
            self.assertTrue((low or 0) <= current <= (high or 0), effect.key)
            assert effect.current_pct is not None
            self.assertAlmostEqual(
                effect.current_pct, 100 * (current / own.plans[effect.key].current.steady_a - 1), 1
            )

    def test_equal_seams_stay_as_they_are(self) -> None:
        _, one = plan(seam("a", FOOT), seam("b", FOOT, ("c", "d")), same_dial=True)
        self.assertEqual((one.effects, dict(one.joints)), ((), {}))

    def test_a_typed_current_is_kept(self) -> None:
        pinned = {**THIN, "pins": {"current_a": 60.0}}
        _, one = plan(seam("a", FOOT), seam("b", pinned, ("c", "d")), same_dial=True)
        self.assertEqual(one.plans["b"].current.steady_a, 60.0)
