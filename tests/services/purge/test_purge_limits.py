"""Limits of a purge: target, ten volumes, end of the arc, and readings before and after it."""

from __future__ import annotations

import math
import unittest
from functools import partial
from types import SimpleNamespace
from typing import Any
from unittest.mock import patch

from msgspec.structs import asdict

from tests.samples import COPE, plan
from tests.services.purge.test_purge_run import ASK
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.physics.purge import PurgeRequest
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.purge_end import purge_off_s
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.purge.oxygen import MeterReading
from wisearc.services.purge.purge_run import (
    find_unrecorded,
    format_purge,
    parse_port,
    summarise_purge,
)
from wisearc.services.purge.purge_status import Fits, PurgeStatus, get_status
from wisearc.store.models import PurgeRun

# the purge of ASK has 1 L at 6 L/min: ten volumes take 100 s
BEGAN, TEN_VOLUMES_S = 1000.0, 100.0


def make_purge(**more: Any) -> PurgeRun:
    return PurgeRun(id=1, what="x", title="", ask=asdict(PurgeRequest(**ASK)), began=BEGAN, **more)


class Limits(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = make_plan(make_joint(COPE), ASSUMED)

    def get_state(
        self, after_s: float, *readings: tuple[float, float], state: str = "reading", **more: Any
    ) -> PurgeStatus:
        answer = MeterReading(list(readings), state if readings else "none")
        listeners: Any = SimpleNamespace(of=lambda *_: answer)
        row = make_purge(**more)
        return get_status(row, self.plan, listeners, Fits(), "mm", lambda: BEGAN + after_s)

    def test_ready_at_the_target(self) -> None:
        for ppm, ready in ((100.0, True), (100.4, False)):
            with self.subTest(ppm=ppm):
                self.assertEqual(self.get_state(30, (20, ppm)).ready, ready)

    def test_percent_from_ten_thousand_ppm(self) -> None:
        for ppm, words in ((9999.0, "9999 ppm"), (10_000.0, "1.0 %"), (209_500.0, "20.9 %")):
            with self.subTest(ppm=ppm):
                self.assertEqual(self.get_state(30, (20, ppm)).large, words)

    def test_ready_after_ten_volumes(self) -> None:
        for after_s, ready in ((TEN_VOLUMES_S - 1, False), (TEN_VOLUMES_S, True)):
            with self.subTest(after_s=after_s):
                self.assertEqual(self.get_state(after_s).ready, ready)

    def test_silent_meter_above_the_target(self) -> None:
        for ppm, ready in ((100.0, True), (100.5, False)):
            with self.subTest(ppm=ppm):
                found = self.get_state(TEN_VOLUMES_S, (20, ppm), state="silent")
                self.assertEqual(found.ready, ready)
        self.assertFalse(self.get_state(TEN_VOLUMES_S - 1, (20, 50.0), state="silent").ready)

    def test_gas_flows_until_the_seam_is_cool(self) -> None:
        hot_s = purge_off_s(self.plan)
        for after_s, ready in ((hot_s - 1, False), (hot_s + 1, True)):
            with self.subTest(after_s=after_s):
                found = self.get_state(200 + after_s, started=BEGAN + 150, arc_off=BEGAN + 200)
                self.assertEqual(found.ready, ready)

    def test_air_flow_of_a_leak(self) -> None:
        # 1000 ppm in 6 L/min of argon of 10 ppm: 6 × 990 / (209,500 − 1000) L/min, 28 mL/min
        readings = [(3.0 * i, 209_500 * 0.8 ** (3 * i / 10) + 1000) for i in range(120)]
        found = self.get_state(360, *readings)
        self.assertRegex(" ".join(found.warnings), r"as with 2[789] mL/min of air")


class Summary(unittest.TestCase):
    def test_readings_before_the_arc(self) -> None:
        struck = make_purge(started=BEGAN + 50, arc_off=BEGAN + 80, ended=BEGAN + 120)
        found = summarise_purge(
            struck, plan(), [(40, 300.0), (50, 90.0), (50.5, 400.0), (80.5, 900.0)]
        )
        self.assertEqual((found.at_arc_ppm, found.most_ppm), (300.0, 400.0))
        self.assertFalse(found.held)
        at_target = summarise_purge(struck, plan(), [(50, 100.0)])
        self.assertTrue(at_target.held)
        self.assertFalse(summarise_purge(struck, plan(), [(50, 100.5)]).held)
        self.assertIn("started early", format_purge(summarise_purge(struck, plan(), [(50, 101)])))

    def test_fit_ignores_readings_after_the_arc(self) -> None:
        row = make_purge(started=BEGAN + 60, arc_off=BEGAN + 80, ended=BEGAN + 120)
        before = [(1.0 * i, 10 + 209_490 * math.exp(-0.1 * i)) for i in range(61)]
        after = [(61.0 + i, 50_000.0) for i in range(20)]
        found = summarise_purge(row, plan(), before)
        self.assertEqual(summarise_purge(row, plan(), before + after).mixing, found.mixing)
        self.assertEqual(
            summarise_purge(row, plan(), before + after).settles_ppm, found.settles_ppm
        )

    def test_ten_volumes_without_a_meter(self) -> None:
        for struck_s, held in ((TEN_VOLUMES_S - 1, False), (TEN_VOLUMES_S, True)):
            row = make_purge(started=BEGAN + struck_s, arc_off=BEGAN + 150, ended=BEGAN + 160)
            with self.subTest(struck_s=struck_s):
                self.assertEqual(summarise_purge(row, plan(), []).held, held)

    def test_argon_of_each_flow(self) -> None:
        # 100 s at 6 and 50 + 10 s at 3 L/min
        row = make_purge(started=BEGAN + 100, arc_off=BEGAN + 150, ended=BEGAN + 160)
        self.assertEqual(summarise_purge(row, plan(), []).argon_l, 13.0)


class Ports(unittest.TestCase):
    def test_valid_ports(self) -> None:
        for text, port in ((" 1024 ", 1024), ("65535", 65535), ("", None)):
            self.assertEqual(parse_port(text), port)
        for text in ("1023", "65536", "100000", "12x", "-1", "１２３４"):
            with self.subTest(text=text), self.assertRaisesRegex(InputError, "from 1024 to 65535"):
                parse_port(text)


class Recorded(unittest.TestCase):
    def test_recorded_within_a_day_of_an_arc(self) -> None:
        day_s = 24 * 3600.0
        ended = make_purge(started=BEGAN + 1, ended=BEGAN + 2, record={})
        for after_s, row, found in (
            (day_s - 1, ended, ended),
            (day_s, ended, None),
            (1.0, make_purge(started=None, ended=BEGAN + 2, record={}), None),
            (1.0, make_purge(started=BEGAN + 1, ended=BEGAN + 2, record=None), None),
            (1.0, make_purge(started=BEGAN + 1, ended=None, record={}), None),
        ):
            with (
                self.subTest(after_s=after_s),
                patch(
                    "wisearc.services.purge.purge_run.purges.find_newest_purge", return_value=row
                ),
            ):
                self.assertIs(find_unrecorded("x", partial(float, BEGAN + 2 + after_s)), found)
