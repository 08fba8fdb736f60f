"""The database: pragmas, constraints for any writer, and sentences for errors."""

import sqlite3
import tempfile
import unittest
from pathlib import Path

import peewee

from tests.samples import CORNER, run, typed
from tests.store_case import StoreCase
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.procedures import procedures
from wisearc.services.runs import runs
from wisearc.store import listings, queries
from wisearc.store.database import db, open_transaction
from wisearc.store.errors import Broken, DatabaseBusy, Missing, NewerVersion, ReadOnly
from wisearc.store.folder import FILE_NAME
from wisearc.store.listings import list_library
from wisearc.store.models import Procedure
from wisearc.store.opening import MIGRATIONS, SCHEMA, Store
from wisearc.store.queries import get_procedure, get_revision


class Opened(StoreCase):
    def test_pragmas(self) -> None:
        self.assertEqual(db.pragma("journal_mode"), "wal")
        self.assertEqual(db.pragma("foreign_keys"), 1)

    def test_second_start_migrates_nothing(self) -> None:
        self.store.close()
        Store(self.folder)
        db.connect(reuse_if_open=True)
        applied = [
            row[0]
            for row in db.execute_sql("SELECT name FROM schema_migration ORDER BY name").fetchall()
        ]
        self.assertEqual(applied, sorted(path.stem for path in MIGRATIONS.glob("0*.py")))

    def test_constraints(self) -> None:
        kept = procedures.keep_draft(make_joint(CORNER), ASSUMED)
        bad = (
            "INSERT INTO procedure (number, created_at) VALUES (0, 'x')",
            "INSERT INTO procedure (number, created_at) VALUES ('seven', 'x')",
            (
                "INSERT INTO revision (procedure_id, letter, status, title, joint, plan, bands,"
                f" changed_at) VALUES ({kept.procedure_id}, 'A', 'draft', '', '{{}}', '{{}}',"
                " '{}', 'x')"
            ),
            (
                "INSERT INTO revision (procedure_id, letter, status, title, joint, plan, bands,"
                f" changed_at) VALUES ({kept.procedure_id}, 'B', 'good', '', '{{}}', '{{}}',"
                " '{}', 'x')"
            ),
            (
                "INSERT INTO revision (procedure_id, letter, status, title, joint, plan, bands,"
                f" changed_at) VALUES ({kept.procedure_id}, 'B', 'proved', '', 'no json', '{{}}',"
                " '{}', 'x')"
            ),
            (
                "INSERT INTO run (revision_id, made_on, record, good, kept_at) VALUES (999, 'x',"
                " '{}', 1, 'x')"
            ),
            (
                f"INSERT INTO run (revision_id, made_on, record, good, kept_at) VALUES ({kept.id},"
                " 'x', '{}', 2, 'x')"
            ),
            f"DELETE FROM procedure WHERE id = {kept.procedure_id}",
        )
        for statement in bad:
            with self.subTest(statement=statement[:60]), self.assertRaises(peewee.DatabaseError):
                db.execute_sql(statement)

    def test_a_proved_revision_is_kept_whoever_writes(self) -> None:
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        runs.record_run("P-0001", "A", typed(run()))
        for statement in (
            "UPDATE revision SET plan = '{}'",
            "UPDATE revision SET status = 'draft'",
            "UPDATE revision SET letter = 'Z'",
        ):
            with self.assertRaises(peewee.DatabaseError):
                db.execute_sql(statement)

    def test_a_failed_write_leaves_nothing(self) -> None:
        with self.assertRaises(ZeroDivisionError), open_transaction():
            Procedure.create(number=5, created_at="x")
            _ = 1 / 0
        self.assertEqual(Procedure.select().count(), 0)

    def test_missing_records(self) -> None:
        for label in ("P-0009", "nonsense", "P-", "P-٣"):
            with self.assertRaises(Missing):
                get_procedure(label)
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        with self.assertRaises(Missing):
            get_revision("P-0001", "Q")

    def test_the_list_is_one_query(self) -> None:
        for _ in range(5):
            procedures.keep_draft(make_joint(CORNER), ASSUMED)
        asked: list[str] = []
        original = db.execute_sql
        db.execute_sql = lambda sql, *a, **k: asked.append(sql) or original(sql, *a, **k)  # type: ignore[method-assign]
        try:
            rows = list_library()
            labels = [row.label for row in rows]
        finally:
            del db.execute_sql
        self.assertEqual((len(labels), len(asked)), (5, 1))


class Walks(StoreCase):
    """No query scans the complete library, at any size."""

    def test_by_an_index(self) -> None:
        for _ in range(3):
            kept = procedures.keep_draft(make_joint(CORNER), ASSUMED)
        asked: list[tuple[str, tuple]] = []
        original = db.execute_sql
        db.execute_sql = lambda sql, params=None, *a, **k: (
            asked.append((sql, params)) or original(sql, params, *a, **k)
        )  # type: ignore[method-assign]
        try:
            queries.list_numbered_revisions("A", "P-0002")
            queries.get_revision("P-0002")
            queries.run_sent(kept, "token")
            queries.list_verifying_runs(kept, 3)
            queries.list_runs(kept, 0, 50)
            queries.find_next_number()
            queries.find_procedure(2)
            listings.list_library()
            listings.list_library(listings.LibraryFilter(status="proved"))
            listings.count(listings.LibraryFilter(status="draft"))
            runs.record_run("P-0002", "A", typed(run(good=False)), once="t")
            procedures.keep_draft(make_joint(CORNER), ASSUMED, once="t")
        finally:
            del db.execute_sql
        for sql, params in asked:
            if not sql.startswith(("SELECT", "UPDATE")):
                continue
            for row in original(f"EXPLAIN QUERY PLAN {sql}", params).fetchall():
                with self.subTest(sql=sql[:200]):
                    self.assertNotRegex(
                        row[3],
                        (
                            "SCAN t1$|SCAN t2$|SCAN revision|SCAN run|SCAN procedure$|TEMP B-TREE"
                            " FOR ORDER BY"
                            if "LENGTH" not in sql
                            else "SCAN t1$"
                        ),
                    )


class RunsOfASheet(StoreCase):
    """The run that verified a revision is listed with its last good runs."""

    def listed(self, maximum: int) -> list[str]:
        found = queries.list_verifying_runs(queries.get_revision("P-0001", "A"), maximum)
        return [row.made_on for row in found]

    def test_the_verifying_run_and_the_newest(self) -> None:
        procedures.keep_draft(make_joint(CORNER), ASSUMED)
        days = [f"2026-03-0{i}" for i in range(1, 7)]
        for day in days:
            runs.record_run("P-0001", "A", typed(run(when=day)), once=day)
        self.assertEqual(self.listed(9), days)
        self.assertEqual(self.listed(6), days)
        self.assertEqual(self.listed(3), [days[0], *days[-2:]])
        self.assertEqual(self.listed(1), [days[0]])


class GoneWrong(unittest.TestCase):
    def setUp(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self.folder = Path(self._folder.name)

    def tearDown(self) -> None:
        if not db.is_closed():
            db.close()
        self._folder.cleanup()

    def test_newer(self) -> None:
        Store(self.folder)
        with sqlite3.connect(self.folder / FILE_NAME) as other:
            other.execute(
                "INSERT INTO schema_migration (name, applied) VALUES ('0099_later', '2030-01-01')"
            )
        other.close()
        with self.assertRaisesRegex(NewerVersion, "newer version"):
            Store(self.folder)

    def test_not_a_database(self) -> None:
        (self.folder / FILE_NAME).write_bytes(b"this is a shopping list, not a database " * 40)
        with self.assertRaisesRegex(Broken, "not a valid database"):
            Store(self.folder)

    def test_locked(self) -> None:
        store = Store(self.folder)
        other = sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        db.point(store.path, SCHEMA, pragmas={"busy_timeout": 50})
        try:
            with self.assertRaisesRegex(DatabaseBusy, "another program is using"):
                procedures.keep_draft(make_joint(CORNER), ASSUMED)
        finally:
            other.execute("ROLLBACK")
            other.close()

    def test_read_only(self) -> None:
        store = Store(self.folder)
        db.point(store.path, SCHEMA, "ro")
        with self.assertRaisesRegex(ReadOnly, "is read-only"):
            procedures.keep_draft(make_joint(CORNER), ASSUMED)

    def test_folder_that_is_a_file(self) -> None:
        (self.folder / "data").write_text("a file")
        with self.assertRaises(ReadOnly):
            Store(self.folder / "data")
