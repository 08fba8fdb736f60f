"""The inbox: files of a folder matched to runs by time, machine and arc time, taken and undone."""

import io
import os
import unittest
from datetime import UTC, datetime, timedelta

from PIL import Image

from tests.samples import CORNER, run, typed
from tests.store_case import StoreCase
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.errors import NotAllowed
from wisearc.services.maintenance import maintenance
from wisearc.services.people.people import Person
from wisearc.services.procedures import procedures
from wisearc.services.procedures.signatures import add_signature
from wisearc.services.runs import inbox, runs
from wisearc.services.runs.kept_files import KeptFiles
from wisearc.services.runs.undo import find_last_act, undo_act
from wisearc.store import queries
from wisearc.store.models import InboxItem, RunRow

NOON = datetime(2026, 5, 4, 12, 0, tzinfo=UTC)


def log_text(arc_s: float, current_a: int = 60) -> str:
    """An arc log of a length, sampled ten times a second."""
    currents = [0] * 5 + [current_a] * int(10 * arc_s) + [0] * 15
    rows = [f"{i / 10},{current}" for i, current in enumerate(currents)]
    return "time_s,current_a\n" + "\n".join(rows) + "\n"


def picture(taken: datetime | None = None, colour: int = 90) -> bytes:
    """A photograph, with the time of its camera if given."""
    out, image = io.BytesIO(), Image.new("RGB", (64, 48), (colour, 90, 90))
    exif = Image.Exif()
    if taken is not None:
        exif.get_ifd(0x8769)[0x9003] = taken.astimezone().strftime("%Y:%m:%d %H:%M:%S")
    image.save(out, "JPEG", exif=exif)
    return out.getvalue()


class InboxCase(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.sent = self.folder / "sent"
        self.sent.mkdir()
        self.files = KeptFiles(self.folder)
        procedures.keep_draft(make_joint(CORNER), ASSUMED)

    def weld(self, minutes: float, machine: str = "bench 200", arc_s: float = 30.0) -> RunRow:
        """A run that was recorded some minutes after noon."""
        moment = (NOON + timedelta(minutes=minutes)).strftime("%Y-%m-%dT%H:%M:%SZ")
        data = run(good=False, machine=machine, when="2026-05-04")
        data["measured"] = {"length_mm": 100, "arc_time_s": arc_s}
        return runs.record_run("P-0001", "A", typed(data), at=lambda: moment)[0]

    def put(self, name: str, data: bytes | str, minutes: float | None = None) -> None:
        path = self.sent / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data.encode() if isinstance(data, str) else data)
        if minutes is not None:
            moment = (NOON + timedelta(minutes=minutes)).timestamp()
            os.utime(path, (moment, moment))

    def receive(self) -> inbox.Received:
        return inbox.receive_folder(self.sent, self.folder)

    def matched(self) -> dict[str, int | None]:
        return {
            proposal.item.name: proposal.best.run.id if proposal.best else None
            for proposal in inbox.list_proposals()
        }


class Matching(InboxCase):
    def test_files_find_their_runs_by_time_machine_and_arc_time(self) -> None:
        first = self.weld(5, "bench 200", 30)
        second = self.weld(20, "field 160", 50)
        third = self.weld(26, "bench 200", 80)
        self.put("bench 200/a.csv", log_text(80), 22)
        self.put("field-160/b.csv", log_text(50), 22)
        self.put("c.csv", log_text(30), 3)
        self.put("d.jpg", picture(), 4)
        self.assertEqual(self.receive().added, 4)
        self.assertEqual(
            self.matched(),
            {
                "bench 200/a.csv": third.id,
                "field-160/b.csv": second.id,
                "c.csv": first.id,
                "d.jpg": first.id,
            },
        )

    def test_time_of_the_camera_then_the_name_then_the_file(self) -> None:
        self.put("a.jpg", picture(NOON, 10), 600)
        named = NOON.astimezone().strftime("%Y-%m-%d_%H-%M")
        self.put(f"IMG {named}.jpg", picture(None, 20), 600)
        self.put("c.jpg", picture(None, 30), 600)
        self.receive()
        found = {item.name[0]: (item.known_by, item.taken_at) for item in InboxItem.select()}
        noon = "2026-05-04T12:00:00Z"
        self.assertEqual(found["a"], ("camera", noon))
        self.assertEqual(found["I"], ("name", noon))
        self.assertEqual(found["c"], ("file", "2026-05-04T22:00:00Z"))

    def test_two_runs_alike_are_left_to_the_person(self) -> None:
        self.weld(9)
        self.weld(11)
        self.put("a.jpg", picture(), 10)
        self.receive()
        (proposal,) = inbox.list_proposals()
        self.assertIsNone(proposal.best)
        self.assertEqual(len(proposal.others), 2)

    def test_no_run_near_and_void_runs(self) -> None:
        made = self.weld(5)
        runs.void_run("P-0001", "A", made.id, "K.S.")
        self.put("a.jpg", picture(), 5)
        self.receive()
        (proposal,) = inbox.list_proposals()
        self.assertEqual((proposal.best, proposal.others), (None, ()))

    def test_generated_day_of_welding(self) -> None:
        """Of forty runs a quarter of an hour apart, nearly every file finds the right one."""
        machines = ("bench 200", "field 160")
        truth = {}
        for i in range(40):
            machine, arc_s = machines[i % 2], 20 + 7 * (i % 9)
            made = self.weld(15 * i, machine, arc_s)
            truth[f"{machine}/{i:02}.csv"] = made.id
            self.put(
                f"{machine}/{i:02}.csv", log_text(arc_s + i % 3 / 2, 40 + i), 15 * i - 3 - i % 5
            )
        self.receive()
        found = self.matched()
        wrong = [name for name, number in found.items() if number not in (None, truth[name])]
        self.assertEqual(wrong, [])
        self.assertGreaterEqual(sum(found[name] == truth[name] for name in truth), 36)

    def test_refused_and_repeated_files(self) -> None:
        self.put("a.txt", "words")
        self.put("b.csv", "not,a\nlog,x\n")
        self.put("c.jpg", b"\xff\xd8 no photograph")
        self.put("d.jpg", picture())
        received = self.receive()
        self.assertEqual((received.added, received.known, len(received.refused)), (1, 0, 3))
        self.assertIn("a.txt is not a photograph or an arc log (.csv).", received.refused[0])
        self.assertEqual(self.receive().known, 1)
        with self.assertRaises(InputError):
            inbox.receive_folder(self.sent / "nowhere", self.folder)


class Taking(InboxCase):
    def setUp(self) -> None:
        super().setUp()
        self.made = self.weld(5)
        self.put("bead.jpg", picture(), 4)
        self.put("arc.csv", log_text(30), 4)
        self.receive()
        self.items = {item.kind: item.id for item in InboxItem.select()}

    def record(self) -> dict:
        return RunRow.get_by_id(self.made.id).record

    def test_photograph_and_log_reach_the_record(self) -> None:
        for number in self.items.values():
            inbox.take_item(number, self.made.id, self.files)
        record = self.record()
        self.assertEqual(record["photographs"][0]["file"], "bead.jpg")
        self.assertEqual(record["arc_log"]["file"], "arc.csv")
        self.assertAlmostEqual(record["arc"]["arc_s"], 30, delta=0.5)
        self.assertEqual(inbox.list_proposals(), [])
        self.assertEqual(maintenance.check_library(self.folder).problems, [])

    def test_same_take_twice_adds_it_once(self) -> None:
        for _ in range(2):
            inbox.take_item(self.items["photograph"], self.made.id, self.files)
        self.assertEqual(len(self.record()["photographs"]), 1)
        other = self.weld(50)
        with self.assertRaisesRegex(NotAllowed, "belongs to another run"):
            inbox.take_item(self.items["photograph"], other.id, self.files)

    def test_undo_puts_it_back(self) -> None:
        before = self.record()
        for kind in ("photograph", "log"):
            inbox.take_item(self.items[kind], self.made.id, self.files)
            revision = queries.get_revision("P-0001", "A")
            undo_act("P-0001", find_last_act(revision).id, "K.S.")
            self.assertEqual(self.record(), before)
            self.assertEqual(len(inbox.list_proposals()), 2)

    def test_run_with_a_log_void_run_and_signed_run(self) -> None:
        inbox.take_item(self.items["log"], self.made.id, self.files)
        self.put("second.csv", log_text(31), 4)
        self.receive()
        (item,) = [p.item for p in inbox.list_proposals() if p.item.kind == "log"]
        with self.assertRaisesRegex(NotAllowed, "has an arc log already"):
            inbox.take_item(item.id, self.made.id, self.files)
        good = runs.record_run("P-0001", "A", typed(run()))[0]
        add_signature("P-0001", "A", "checker", Person(0, "K.S.", "", "lead", True), "K.S.")
        with self.assertRaisesRegex(NotAllowed, "This run was signed"):
            inbox.take_item(self.items["photograph"], good.id, self.files)
        runs.void_run("P-0001", "A", self.made.id, "K.S.")
        with self.assertRaisesRegex(NotAllowed, "is void"):
            inbox.take_item(self.items["photograph"], self.made.id, self.files)

    def test_waiting_files_are_not_collected(self) -> None:
        references = queries.find_referenced_files()
        shas = {item.sha256 for item in InboxItem.select()}
        self.assertLessEqual(shas, references)
        inbox.drop_item(self.items["log"])
        self.assertEqual(len(shas - queries.find_referenced_files()), 1)
        inbox.restore_item(self.items["log"])
        self.assertLessEqual(shas, queries.find_referenced_files())


if __name__ == "__main__":
    unittest.main()
