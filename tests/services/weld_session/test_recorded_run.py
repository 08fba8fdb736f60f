"""Runs at the arc are recorded with all measured values."""

import shutil
from typing import Any

from tests.samples import run, typed
from tests.services.weld_session.case import SHEET, Case
from tests.waves import Wave, format_csv
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.run.verification import check_coupon
from wisearc.core.schema.documents import write_document
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.background import Background
from wisearc.services.procedures import procedures
from wisearc.services.runs import session_records
from wisearc.services.runs.arc_columns import ArcColumns
from wisearc.services.runs.kept_files import KeptFiles
from wisearc.services.set_up.checklists import format_subject
from wisearc.services.weld_session import weld_session
from wisearc.services.weld_session.arc_source import Sources


class WriteCase(Case):
    def setUp(self) -> None:
        super().setUp()
        self.files = KeptFiles(self.folder)
        self.background = Background()
        self.columns = ArcColumns(self.folder, self.files, self.background)
        self.addCleanup(self.background.close)
        self.sources = Sources(self.folder)
        self.addCleanup(self.sources.close)

    def told(self, row: Any, revision: Any = None) -> dict[str, Any]:
        """Return the known values of a run as data, without missing ones."""
        whole = write_document(self.known(row, revision).run, with_defaults=True)
        parts = ("set", "used", "measured", "arc")
        bare = {
            part: {k: v for k, v in (whole[part] or {}).items() if v is not None} for part in parts
        }
        return whole | bare

    def known(self, row: Any, revision: Any = None) -> session_records.Known:
        bands = None if revision is None else revision.bands
        return session_records.gather_known(
            row, self.plan, bands, ASSUMED, self.sources, self.columns, self.files, None, "mm"
        )

    def trace(self, row: Any, **more: Any) -> None:
        pulse = self.plan.pulse
        beat = (
            {"rate": pulse.rate_pps, "on": pulse.on_pct / 100, "background": pulse.background_a}
            if pulse.pulsed
            else {}
        )
        time, current, gas = Wave(
            **{"peak": pulse.peak_a, "hz": 50, "arc": 30, "noise": 0.5, "down": 1.5, **beat, **more}
        ).rows()
        path = self.sources.file(row.id, row.began)
        path.parent.mkdir()
        path.write_text(format_csv(time, current, gas=gas))


class Written(WriteCase):
    def test_from_the_taps(self) -> None:
        row = self.take(self.sent(self.whole()))
        data = self.told(row)
        self.assertEqual(data["arc"]["by"], "timer")
        self.assertAlmostEqual(data["arc"]["arc_s"], 30)
        self.assertEqual(
            (data["measured"]["arc_time_s"], data["measured"]["length_mm"]), (30.0, 90)
        )
        self.assertAlmostEqual(data["set"]["current_a"], self.plan.slopes.dial_a, delta=0.5)

    def test_values_from_the_saved_trace(self) -> None:
        row = self.take(self.sent([*self.whole(), (990.0, "wait", "main")]))
        self.trace(row)
        data = self.told(row)
        self.assertEqual(data["arc"]["by"], "log")
        self.assertAlmostEqual(data["arc"]["arc_s"], 30, delta=0.5)
        self.assertEqual(data["left_band"], [])
        sha = data["arc_log"]["sha256"]
        self.assertEqual(
            b"".join(self.files.log(sha)), self.sources.file(row.id, row.began).read_bytes()
        )
        self.assertEqual(self.columns.log(sha).restarts, 0)

    def test_trace_is_saved_before_the_run_is_finished(self) -> None:
        row = self.take(self.sent(self.whole()))
        self.trace(row)
        self.assertIsNone(self.told(row)["arc_log"])
        told = session_records.gather_known(
            row,
            self.plan,
            None,
            ASSUMED,
            self.sources,
            self.columns,
            self.files,
            None,
            "mm",
            written=True,
        )
        self.assertTrue(self.files.path(told.run.arc_log.sha256, ".csv.gz").exists())

    def test_different_peak_in_the_log_is_the_setting(self) -> None:
        plan = make_plan(make_joint({**self.plan.joint, "pulse": "slow-cold"}), ASSUMED)
        self.plan, pulse = plan, plan.pulse
        for share, taken in ((1.03, False), (1.08, True), (0.9, True)):
            row = self.take(
                self.sent(
                    [*self.whole(), (990.0, "wait", "main")],
                    once=f"run-number-{share}".replace(".", "-"),
                    device=f"device-{share}".replace(".", "-"),
                )
            )
            path = self.sources.file(row.id, row.began)
            path.parent.mkdir(exist_ok=True)
            wave = Wave(
                rate=pulse.rate_pps,
                on=pulse.on_pct / 100,
                peak=share * pulse.peak_a,
                background=pulse.background_a,
                hz=50,
                arc=30,
                noise=0.3,
                down=1.5,
            )
            time, current, gas = wave.rows()
            path.write_text(format_csv(time, current, gas=gas))
            was = self.told(row)["set"]["current_a"]
            self.assertAlmostEqual(was, (share if taken else 1) * plan.slopes.machine_a, delta=1.0)

    def test_kept_as_a_draft_with_its_run_once(self) -> None:
        row = self.take(self.sent([*self.whole(), (990.0, "wait", "main")]))
        self.trace(row, peak=self.plan.pulse.peak_a * 1.4)
        told = {**self.told(row), "when": "2026-03-04"}
        self.assertTrue(told["left_band"])
        record = {
            **{k: v for k, v in run().items() if k not in ("set", "used", "measured", "good")},
            **told,
            "good": False,
        }
        for _ in range(2):
            made = session_records.write(row, typed(record), self.plan, None, ASSUMED, "once-1", 0)
        self.assertEqual((made.procedure.label, made.letter), ("P-0001", "A"))
        (kept,) = procedures.queries.list_runs(made)
        self.assertEqual(kept.record["left_band"], told["left_band"])
        self.assertEqual(kept.record["arc_log"], told["arc_log"])
        self.assertEqual(weld_session.list_unrecorded(), [])
        # A recorded session accepts no more events.
        self.take(self.sent([(999.0, "done", "main")], device="device-two"))
        self.assertEqual(len(weld_session.list_acts(weld_session.get_run(row.id))), 7)

    def test_good_and_proved_with_the_procedure(self) -> None:
        draft = procedures.keep_draft(self.joint, ASSUMED)
        what = format_subject(draft.procedure.label, "A")
        row = weld_session.receive_entries(
            self.sent(self.whole(), what=what), self.plan, "A corner", ASSUMED, lambda: self.now
        )
        known = self.told(row, draft)
        told = {
            **known,
            "when": "2026-03-04",
            "measured": {
                **known["measured"],
                "arc_time_s": round(90 / self.plan.travel.speed_mm_s, 1),
            },
        }
        record = {**run(), **{k: v for k, v in told.items() if v}, "good": True, "photographs": []}
        made = session_records.write(row, typed(record), self.plan, draft, ASSUMED, "once-1", 0)
        self.assertEqual(made.status, "proved")

    def test_the_kitchen_mix_is_for_stainless_of_the_300s(self) -> None:
        rust = {"coupon": {"rust": {"test": "kitchen", "minutes": 9, "shows": False}}}
        ferroxyl = {"coupon": {"rust": {"test": "ferroxyl", "minutes": 9, "shows": False}}}
        check_coupon(typed(rust), self.plan)
        # ferritic sheet rusts in it whatever its surface: common practice, no source
        for metal in ("430", "409", "mild-steel", "2205"):
            plan = make_plan(
                make_joint(
                    {
                        "joint": "butt",
                        "length_mm": 90,
                        "members": [SHEET, {**SHEET, "metal": metal}],
                    }
                ),
                ASSUMED,
            )
            with self.assertRaisesRegex(InputError, "200 and 300 series"):
                check_coupon(typed(rust), plan)
            check_coupon(typed(ferroxyl), plan)


class Columns(WriteCase):
    def test_window_of_a_log_is_rebuilt_when_missing(self) -> None:
        row = self.take(self.sent([*self.whole(), (990.0, "wait", "main")]))
        self.trace(row)
        sha = self.told(row)["arc_log"]["sha256"]
        whole, start, end, first, last = self.columns.window(sha, None, None, 400)
        self.assertEqual((start, end), (first, last))
        part, start, end, *_ = self.columns.window(sha, 5.0, 7.0)
        self.assertEqual((start, end), (5.0, 7.0))
        self.assertTrue(len(whole.low) <= 802 and len(part.low) <= 2202)
        shutil.rmtree(self.folder / "arcs")
        again = ArcColumns(self.folder, self.files, self.background).window(sha, 5.0, 7.0)[0]
        self.assertEqual(again.high.tolist(), part.high.tolist())
