"""No backup, archive, page or log has PIN hashes, device secrets or the session key."""

import logging
import shutil
import sqlite3
import time
import zipfile
from contextlib import closing
from pathlib import Path

from argon2 import PasswordHasher

from tests.care_case import CareCase
from wisearc.core.errors import InputError
from wisearc.services.devices.devices import Devices
from wisearc.services.maintenance import archive_export, maintenance
from wisearc.services.people import people
from wisearc.services.people.attempts import AttemptLimiter
from wisearc.store import people as stored_people
from wisearc.store.errors import DiskFull, Missing, NotAllowed, StoreError
from wisearc.store.folder import FILE_NAME, load_secret
from wisearc.store.opening import Store
from wisearc.store.pins import PinFile
from wisearc.web import create_app

OLD_HASH = "$argon2id$v=19$m=65536,t=3,p=4$b2xkc2FsdA$b2xkaGFzaG9mYmVmb3Jl"


def downgrade(path: Path, pins: dict[str, str]) -> None:
    """Change a library to schema version 12 with PINs in the person table."""
    with closing(sqlite3.connect(path)) as file:
        file.execute("ALTER TABLE person ADD COLUMN pin TEXT NOT NULL DEFAULT ''")
        for initials, hashed in pins.items():
            file.execute(
                "INSERT INTO person (initials, role, pin) VALUES (?, 'lead', ?)", (initials, hashed)
            )
        file.execute("DELETE FROM schema_migration WHERE name LIKE '0013%'")
        file.execute("PRAGMA user_version = 12")
        file.commit()


class Secrets(CareCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.folder)
        people.enter("K.S.", "", "lead", "246824")
        devices = Devices(self.folder)
        self.device = devices.pair(devices.code().digits, "tablet", "a")
        self.secrets = {
            stored_people.open_pin_file().get_hash("K.S."),
            self.device,
            devices.all()[0].print,
            load_secret(self.folder),
            stored_people.open_pin_file().generation or "no generation",
        }

    def assert_none_in(self, data: bytes, where: str) -> None:
        for text in self.secrets:
            self.assertNotIn(text.encode(), data, where)
        for word in (b"argon2", b"246824"):
            self.assertNotIn(word, data, where)

    def test_backups_and_archives_have_no_secrets(self) -> None:
        copy = maintenance.create_backup(self.folder, self.at / "copies")
        archive_export.export(self.folder, self.at / "book.zip")
        before = maintenance.restore(self.folder, copy)
        for path in (*(self.at / "copies").rglob("*"), *before.parent.rglob("*")):
            if path.is_file():
                self.assert_none_in(path.read_bytes(), path.name)
        with zipfile.ZipFile(self.at / "book.zip") as archive:
            self.assertGreater(len(archive.namelist()), 3)
            for name in archive.namelist():
                self.assert_none_in(archive.read(name), name)

    def test_pages_and_logs_have_no_secrets(self) -> None:
        self.store.close()
        messages: list[str] = []

        class Collector(logging.Handler):
            def emit(self, record: logging.LogRecord) -> None:
                messages.append(self.format(record))

        app = create_app(self.folder, TESTING=False, PROPAGATE_EXCEPTIONS=False)
        handler = Collector()
        logging.getLogger().addHandler(handler)
        self.addCleanup(logging.getLogger().removeHandler, handler)

        @app.get("/fault")
        def fault() -> str:
            hashed, key, device = (
                stored_people.open_pin_file().get_hash("K.S."),
                app.secret_key,
                self.device,
            )
            raise RuntimeError(f"error with {len(hashed + str(key) + device)} letters")

        client = app.test_client()
        for page in (
            "/",
            "/plan",
            "/shop/",
            "/shop/people/",
            "/shop/devices",
            "/shop/maintenance",
            "/fault",
        ):
            answer = client.get(page)
            self.assert_none_in(answer.get_data(), page)
        self.assertEqual(answer.status_code, 500)
        self.assertIn("error with", " ".join(messages))
        self.assert_none_in(" ".join(messages).encode(), "log")

    def test_migration_removes_pins_from_library_and_backups(self) -> None:
        self.store.close()
        (self.folder / "pins.json").unlink()
        old = self.folder / FILE_NAME
        with closing(sqlite3.connect(old)) as file:
            file.execute("DELETE FROM person")
            file.commit()
        downgrade(old, {"K.S.": PasswordHasher().hash("1357"), "M.O.": OLD_HASH})
        copies = self.folder / "backups"
        copies.mkdir(exist_ok=True)
        shutil.copy(old, copies / "wisearc-20260101-000000.sqlite3")
        (copies / "wisearc-20260102-000000.sqlite3").write_bytes(b"no database at all")
        self.store = Store(self.folder)
        limiter = AttemptLimiter(time.monotonic)
        with self.assertRaises(people.ShortPin):
            people.check_pin("1357", "here", limiter)
        self.assertEqual(people.check_pin("1357", "here", limiter, "135713").initials, "K.S.")
        self.assertEqual(stored_people.open_pin_file().get_hash("M.O."), OLD_HASH)
        self.store.close()
        made = sorted(copies.glob("*.sqlite3"))
        self.assertEqual(len(made), 3)
        for path in (*made, *self.folder.glob(f"{FILE_NAME}*")):
            self.assertNotIn(b"argon2", path.read_bytes(), path.name)

    def test_restored_old_backup_has_no_pins(self) -> None:
        copy = maintenance.create_backup(self.folder, self.at / "copies")
        with closing(sqlite3.connect(copy)) as file:
            file.execute("DELETE FROM person")
            file.commit()
        downgrade(copy, {"X.Y.": OLD_HASH})
        maintenance.restore(self.folder, copy)
        self.open(self.folder)
        self.assertEqual([(p.initials, p.has_pin) for p in people.list_people()], [("X.Y.", False)])
        self.assertTrue(people.is_restored() and people.needs_lead())
        with self.assertRaisesRegex(NotAllowed, "--new-pin"):
            people.check_pin("246824", "here", AttemptLimiter(time.monotonic))
        people.set_pin("X.Y.", "135713")
        self.assertFalse(people.is_restored())

    def test_backup_without_lead_needs_a_new_pin(self) -> None:
        copy = maintenance.create_backup(self.folder, self.at / "copies")
        with closing(sqlite3.connect(copy)) as file:
            file.execute("DELETE FROM person")
            file.commit()
        generation = people.get_pin_generation()
        maintenance.restore(self.folder, copy)
        self.open(self.folder)
        self.assertTrue(people.needs_lead())
        self.assertNotEqual(people.get_pin_generation(), generation)
        with self.assertRaises(InputError):
            people.set_pin("Z.Z.", "135")
        people.set_pin("Z.Z.", "135713")
        self.assertEqual([(p.initials, p.role) for p in people.list_people()], [("Z.Z.", "lead")])
        with self.assertRaises(Missing):
            people.set_pin("Q.Q.", "135713")

    def test_shop_without_lead_stays_without_lead(self) -> None:
        other = self.at / "other"
        self.open(other)
        copy = maintenance.create_backup(other, self.at / "copies")
        maintenance.restore(other, copy)
        self.open(other)
        self.assertFalse(people.needs_lead())

    def test_failed_restore_keeps_the_pins(self) -> None:
        before = stored_people.open_pin_file().get_hash("K.S.")
        with self.assertRaises(DiskFull), PinFile(self.folder).clear(True):
            self.assertEqual(stored_people.open_pin_file().get_hash("K.S."), "")
            raise DiskFull
        self.assertEqual(
            (stored_people.open_pin_file().get_hash("K.S."), people.is_restored()), (before, False)
        )

    def test_new_library_has_no_lead(self) -> None:
        maintenance.create_library(self.folder)
        self.open(self.folder)
        self.assertEqual((people.list_people(), people.needs_lead()), ([], False))
        self.assertEqual(stored_people.open_pin_file().get_hash("K.S."), "")


class Damaged(CareCase):
    def test_unreadable_backup_is_not_changed(self) -> None:
        from wisearc.store.copies import remove_pins

        path = self.at / "odd.sqlite3"
        path.write_bytes(b"no database at all, of some length" * 40)
        with self.assertRaises(StoreError):
            remove_pins(path)
        self.assertTrue(path.read_bytes().startswith(b"no database"))
