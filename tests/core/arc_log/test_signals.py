"""Signals of a running arc, from generated readings: tack, strike, full, taper, stop, gas."""

import unittest
from collections.abc import Iterator
from itertools import pairwise

from wisearc.core.arc_log.live import Live, Row
from wisearc.core.arc_log.signals import PlannedArc, SignalFinder, get_planned_arc
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.simulators.power_source import Seam, simulate_rows

STEP_S = 0.02
SHEET = {"metal": "304L", "form": "sheet", "thickness_mm": 1.5}


class Trace:
    """Readings with a clock: pieces of time with a current, a voltage and the gas."""

    def __init__(self) -> None:
        self.now = 0.0
        self.rows: list[Row] = []

    def add(
        self,
        seconds: float,
        current: float,
        end: float | None = None,
        volts: float | None = None,
        gas: float | None = None,
    ) -> "Trace":
        """Add readings with a current that changes evenly from one value to another."""
        count = round(seconds / STEP_S)
        for i in range(count):
            amps = current + ((current if end is None else end) - current) * i / count
            self.rows.append((round(self.now, 3), amps, volts, gas))
            self.now += STEP_S
        return self


def follow(rows: list[Row] | Iterator[Row], planned: PlannedArc) -> SignalFinder:
    live, finder = Live(), SignalFinder(planned)
    for row in rows:
        live.take(row)
        finder.follow(live)
    return finder


def names(finder: SignalFinder) -> list[str]:
    return [signal.kind for signal in finder.signals]


def find(finder: SignalFinder, kind: str) -> float:
    return next(signal.at_s for signal in finder.signals if signal.kind == kind)


STEADY = PlannedArc(10.5, 50.0)


class Signals(unittest.TestCase):
    def test_bursts_before_the_first_long_arc_are_tacks(self) -> None:
        trace = Trace()
        for _ in range(3):
            trace.add(1, 0).add(0.8, 65).add(2, 0)
        trace.add(1, 0).add(10, 50).add(1, 0)
        finder = follow(trace.rows, STEADY)
        self.assertEqual(names(finder).count("tack"), 3)
        self.assertEqual(names(finder)[-4:], ["strike", "full", "long", "off"])
        # A long arc is dated back to its strike.
        strikes = [s.at_s for s in finder.signals if s.kind == "strike"]
        self.assertEqual(find(finder, "long"), strikes[-1])
        self.assertEqual(len({(s.kind, s.strike, s.part) for s in finder.signals}), 13)

    def test_the_limit_of_a_tack(self) -> None:
        for lasted, kind in ((1.9, "tack"), (2.1, "off")):
            finder = follow(Trace().add(1, 0).add(lasted, 50).add(1, 0).rows, STEADY)
            self.assertEqual(names(finder)[-1], kind, lasted)
            self.assertEqual("long" in names(finder), kind == "off")

    def test_after_the_first_long_arc_a_burst_is_a_restart(self) -> None:
        finder = follow(Trace().add(1, 0).add(5, 50).add(3, 0).add(1, 50).add(1, 0).rows, STEADY)
        self.assertNotIn("tack", names(finder))
        self.assertEqual(names(finder).count("off"), 2)

    def test_moments_are_those_of_the_current(self) -> None:
        finder = follow(Trace().add(1, 0).add(4, 50).add(1, 0).rows, STEADY)
        self.assertAlmostEqual(find(finder, "strike"), 1.0, delta=0.03)
        self.assertAlmostEqual(find(finder, "off"), 5.0, delta=0.03)

    def test_current_is_full_with_the_slope_or_the_pedal(self) -> None:
        ramp = Trace().add(1, 0).add(1.0, 10, 50).add(5, 50).rows
        # 90 % of 50 A after 0.875 of the second.
        self.assertAlmostEqual(find(follow(ramp, STEADY), "full"), 1.88, delta=0.06)
        low = Trace().add(1, 0).add(0.5, 10, 38).add(5, 38).rows
        # Less than planned, but steady: 0.6 s after the level was reached.
        self.assertAlmostEqual(find(follow(low, STEADY), "full"), 2.1, delta=0.3)
        never = Trace().add(1, 0).add(9, 5, 34).rows
        self.assertNotIn("full", names(follow(never, STEADY)))
        self.assertAlmostEqual(find(follow(never, STEADY), "late"), 7.0, delta=0.1)

    def test_the_voltage_settles(self) -> None:
        trace = Trace().add(1, 0, volts=0.0)
        for i in range(8):
            trace.add(0.2, 50, volts=16 - 0.7 * i)
        trace.add(4, 50, volts=10.4)
        # Falling by 0.7 V every 0.2 s until 2.6 s; two equal intervals of 0.3 s follow.
        self.assertAlmostEqual(find(follow(trace.rows, STEADY), "full"), 2.95, delta=0.2)
        plain = Trace().add(1, 0, volts=0.0).add(4, 50, volts=10.4).rows
        self.assertAlmostEqual(find(follow(plain, STEADY), "full"), 1.6, delta=0.05)

    def test_a_taper_and_a_break(self) -> None:
        tapered = follow(Trace().add(1, 0).add(8, 50).add(1.5, 50, 8).add(2, 0).rows, STEADY)
        self.assertEqual(names(tapered), ["strike", "full", "long", "taper", "off"])
        self.assertAlmostEqual(find(tapered, "taper"), 9.1, delta=0.15)
        broken = follow(Trace().add(1, 0).add(8, 50).add(2, 0).rows, STEADY)
        self.assertNotIn("taper", names(broken))
        # A pedal eased to 80 % on a hot tube is no taper, and one pressed again was none.
        eased = follow(Trace().add(1, 0).add(8, 50).add(4, 40).add(2, 0).rows, STEADY)
        self.assertNotIn("taper", names(eased))
        again = follow(Trace().add(1, 0).add(8, 50).add(1, 25).add(4, 50).rows, STEADY)
        self.assertEqual(names(again), ["strike", "full", "long", "taper", "rise"])

    def test_a_slow_pulse_is_no_taper(self) -> None:
        trace = Trace().add(1, 0)
        for _ in range(20):
            trace.add(0.2, 110).add(0.46, 6)
        trace.add(2, 0)
        finder = follow(trace.rows, PlannedArc(10.5, 110.0, 1 / 1.5))
        self.assertEqual(names(finder), ["strike", "full", "long", "off"])

    def test_gas_off(self) -> None:
        trace = Trace().add(1, 0, gas=1).add(4, 50, gas=1).add(6, 0, gas=1).add(1, 0, gas=0)
        finder = follow(trace.rows, STEADY)
        self.assertTrue(finder.has_gas)
        self.assertAlmostEqual(find(finder, "gas-off"), 11.0, delta=0.05)
        bounced = Trace().add(1, 0, gas=1).add(0.2, 0, gas=0).add(1, 0, gas=1)
        self.assertEqual(names(follow(bounced.rows, STEADY)), [])
        self.assertFalse(follow(Trace().add(1, 0).rows, STEADY).has_gas)

    def test_a_lost_link_is_no_stop(self) -> None:
        trace = Trace().add(1, 0).add(5, 50)
        trace.now += 8
        trace.add(5, 50).add(1, 0)
        finder = follow(trace.rows, STEADY)
        self.assertEqual(names(finder).count("strike"), 1)
        self.assertEqual(names(finder).count("off"), 1)

    def test_a_simulated_weld(self) -> None:
        """The power source that ships: tacks, a break and a taper, at any rate of readings."""
        for rate in (20.0, 50.0, 400.0):
            seam = Seam(rate_pps=1.5, tacks=4, restarts=1, arc_s=30, rate_hz=rate, slip=False)
            rows = (
                (r["time_s"], r["current_a"], r["voltage_v"], float(r["gas"]))
                for r in simulate_rows(seam)
            )
            finder = follow(rows, PlannedArc(10.5, 110.0, 1 / 1.5))
            found = names(finder)
            self.assertEqual(found.count("tack"), 4, rate)
            self.assertEqual((found.count("off"), found.count("taper")), (2, 1), rate)
            self.assertEqual(
                found.count("full"), 2 + found[: found.index("long")].count("full") - 1
            )

    def test_planned_arc(self) -> None:
        members = {"members": [SHEET, SHEET], "length_mm": 300}
        pulsed = make_plan(make_joint({"joint": "outside-corner", **members}), ASSUMED)
        arc = get_planned_arc(pulsed)
        self.assertEqual(arc.current_a, pulsed.pulse.peak_a)
        self.assertAlmostEqual(arc.cycle_s, 1 / (pulsed.pulse.rate_pps or 0.0))
        steady = make_plan(make_joint({"joint": "butt", "pulse": "none", **members}), ASSUMED)
        self.assertEqual(get_planned_arc(steady).current_a, steady.slopes.mean_a)
        self.assertEqual(get_planned_arc(steady).cycle_s, 0.0)

    def test_the_memory_does_not_grow(self) -> None:
        finder = follow(Trace().add(1, 0).add(300, 50).rows, STEADY)
        self.assertLess(len(finder._intervals), 200)
        self.assertTrue(all(a.at_s <= b.at_s for a, b in pairwise(finder._intervals)))
