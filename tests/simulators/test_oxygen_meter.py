"""The simulated meter: its output, its clients, and a replayed CSV."""

import json
import math
import socket
import tempfile
import threading
from itertools import islice
from pathlib import Path

from tests.untraced import Untraced
from wisearc.simulators.oxygen_meter import Behind, Meter, replay_readings, simulate_readings


class Simulated(Untraced):
    def test_equal_seeds_give_equal_output(self) -> None:
        one, again, other = (
            list(islice(simulate_readings(Behind(seed=seed)), 200)) for seed in (1, 1, 2)
        )
        self.assertEqual(one, again)
        self.assertNotEqual(one, other)
        self.assertAlmostEqual(one[1][0] - one[0][0], 0.2)

    def test_falls_to_its_floor_or_its_leak(self) -> None:
        """A stirred vessel.

        After t it is exp(−Q t / V) of the start value; it settles at the balance of argon and air.
        Calculated manually.
        """
        quiet = Behind(volume_l=1.0, flow_l_min=6.0, noise=0.0, lag_s=0.0, floor_ppm=0.0)
        by_time = dict(islice(simulate_readings(quiet), 300))
        self.assertAlmostEqual(by_time[20.0] / 209_500, math.exp(-2.0), delta=0.002)
        leaking = list(
            islice(simulate_readings(Behind(noise=0.0, floor_ppm=8.0, leak_l_min=0.02)), 1500)
        )[-1][1]
        self.assertAlmostEqual(leaking, (6 * 8 + 0.02 * 209_500) / 6.02, delta=3)

    def test_a_layer_delays(self) -> None:
        held = [
            t
            for t, c in islice(
                simulate_readings(
                    Behind(volume_l=1.0, flow_l_min=6.0, mixing=0.5, noise=0.0, lag_s=0.0)
                ),
                100,
            )
            if c > 209_000
        ]
        self.assertAlmostEqual(held[-1], 5.0, delta=0.3)

    def test_lag_delays_the_reading(self) -> None:
        quick, slow = (
            dict(islice(simulate_readings(Behind(noise=0.0, lag_s=lag)), 200)) for lag in (0.0, 6.0)
        )
        self.assertGreater(slow[10.0], 1.5 * quick[10.0])


class OnAPort(Untraced):
    def test_lines_reach_every_client(self) -> None:
        meter = Meter(lambda: islice(simulate_readings(Behind()), 20), speed=50)
        threading.Thread(target=meter.serve, daemon=True).start()
        with socket.create_connection(("127.0.0.1", meter.port), 2) as one, one.makefile() as lines:
            found = [json.loads(line) for line in lines]
        self.assertEqual(len(found), 20)
        self.assertEqual(set(found[0]), {"time_s", "ppm"})

    def test_recording_is_replayed(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "was.csv"
            path.write_text("time_s,ppm\r\n0,209000\r\n0.2,150000.5\r\n", encoding="utf-8")
            self.assertEqual(list(replay_readings(path)), [(0.0, 209000.0), (0.2, 150000.5)])
            for text, line in (
                ("time_s,ppm\n0,x\n", "line 2"),
                ("time,ppm\n0,1\n", "line 2"),
                ("time_s,ppm\n0,nan\n", "line 2"),
            ):
                path.write_text(text, encoding="utf-8")
                with self.assertRaisesRegex(ValueError, line):
                    list(replay_readings(path))
