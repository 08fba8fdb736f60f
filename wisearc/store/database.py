"""The database: opened with each request that needs it and closed with it, migrated at start, every write in a transaction."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import peewee
from playhouse.migrations import Runner

from .errors import Broken, Locked, Newer, ReadOnly, StoreError

FILE_NAME = "wisearc.sqlite3"
MIGRATIONS = Path(__file__).parent / "migrations"
PRAGMAS = {"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 3000, "synchronous": "normal"}
db = peewee.SqliteDatabase(None)


class Store:
    """The data folder's database. Raises StoreError at once where it cannot be used."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / FILE_NAME
        with translated():
            try:
                folder.mkdir(parents=True, exist_ok=True)
            except OSError as error:
                raise ReadOnly from error
            if not db.is_closed():
                db.close()
            db.init(str(self.path), pragmas=PRAGMAS)
            self._migrate()
            db.close()

    def _migrate(self) -> None:
        runner = Runner(db, directory=str(MIGRATIONS))
        known = {m.name for m in runner.migrations()}
        applied = set(runner.applied())
        if unknown := sorted(applied - known):
            holds = ", ".join(unknown)
            words = "Start that version, or give another folder with --data; nothing was changed."
            raise Newer(f"The data was written by a newer version of Wise Arc (it holds {holds}). {words}")
        if known - applied:
            runner.up()

    def close(self) -> None:
        """Close this thread's connection."""
        if not db.is_closed():
            db.close()


@contextmanager
def translated() -> Iterator[None]:
    """Turn the database's own errors into sentences for people."""
    try:
        yield
    except StoreError:
        raise
    except peewee.DatabaseError as error:
        text = str(error).lower()
        if "locked" in text or "busy" in text:
            raise Locked from error
        if "readonly" in text or "read-only" in text or "unable to open" in text:
            raise ReadOnly from error
        if "malformed" in text or "not a database" in text or "no such" in text:
            raise Broken(str(error)) from error
        raise


@contextmanager
def transaction() -> Iterator[None]:
    """A write: taken whole or not at all, and from the start the only writer."""
    with translated(), db.atomic("IMMEDIATE"):
        yield
