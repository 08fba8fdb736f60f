"""New rows of a copy of the database, added to the database in one write."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from .database import WAIT_MS, build_uri, wrap_errors
from .errors import EditConflict
from .listings import FOUND_BY

# In the order of their references.
_TABLES = ("procedure", "revision", "run", "job")


def read_state(path: Path) -> dict[str, int]:
    """Return the state of a database: its count of writes, and the last row of each table."""
    with wrap_errors(), closing(sqlite3.connect(build_uri(path, "ro"), uri=True)) as file:
        state = {"writes": file.execute("SELECT writes FROM book").fetchone()[0]}
        return state | {
            t: file.execute(f"SELECT coalesce(max(id), 0) FROM {t}").fetchone()[0] for t in _TABLES
        }


def add_new(copy: Path, target: Path, before: dict[str, int], with_shop: bool = False) -> None:
    """Add the new rows of a copy to the database, with new signatures and retired revisions.

    Args:
        copy: The copy, with the new rows.
        target: The database.
        before: The highest id of each table when the copy was made.
        with_shop: Whether the shop of the copy replaces that of the database.

    Raises:
        EditConflict: The database changed after it was copied.
    """
    with (
        wrap_errors(),
        closing(
            sqlite3.connect(
                build_uri(target), timeout=WAIT_MS / 1000, uri=True, isolation_level=None
            )
        ) as file,
    ):
        file.execute("PRAGMA synchronous = full")
        file.execute("PRAGMA foreign_keys = 1")
        file.execute("ATTACH ? AS made", (build_uri(copy, "ro"),))
        file.execute("BEGIN IMMEDIATE")
        try:
            if file.execute("SELECT writes FROM main.book").fetchone()[0] != before["writes"]:
                raise EditConflict(
                    "The library changed during the import, so nothing was imported. Try again "
                    "when nobody is saving."
                )
            for table in _TABLES:
                columns = ", ".join(
                    row[1] for row in file.execute(f"PRAGMA main.table_info({table})")
                )
                file.execute(
                    f"INSERT INTO main.{table} ({columns}) SELECT {columns} FROM made.{table} WHERE"
                    " id > ? ORDER BY id",
                    (before[table],),
                )
            file.execute(
                "INSERT INTO main.job_tick SELECT * FROM made.job_tick WHERE job > ?",
                (before["job"],),
            )
            _update_changed(file, before["revision"])
            file.execute(
                "INSERT INTO main.listing SELECT * FROM made.listing WHERE revision_id > ?",
                (before["revision"],),
            )
            file.execute(
                "INSERT INTO main.listing_word SELECT * FROM made.listing_word"
                " WHERE revision_id > ?",
                (before["revision"],),
            )
            file.execute(
                "INSERT INTO main.learnt SELECT * FROM made.learnt WHERE run > ?", (before["run"],)
            )
            text = ", ".join(("rowid", *FOUND_BY))
            file.execute(
                f"INSERT INTO main.finding ({text}) SELECT {text} FROM made.finding WHERE"
                " rowid > ?",
                (before["revision"],),
            )
            file.execute("INSERT OR IGNORE INTO main.shop_key SELECT * FROM made.shop_key")
            file.execute("INSERT OR IGNORE INTO main.school SELECT * FROM made.school")
            if with_shop:
                file.execute("DELETE FROM main.owned")
                file.execute("INSERT INTO main.owned SELECT * FROM made.owned")
                file.execute("DELETE FROM main.shop")
                file.execute("INSERT INTO main.shop SELECT * FROM made.shop")
            file.execute("UPDATE main.book SET writes = writes + 1")
            file.execute("COMMIT")
        except BaseException:
            if file.in_transaction:
                file.execute("ROLLBACK")
            raise


def _update_changed(file: sqlite3.Connection, last: int) -> None:
    """Update the signatures, and the retired state, of earlier revisions.

    Args:
        file: The connection, with the copy attached.
        last: The highest id of an earlier revision.
    """
    changed = [
        row[0]
        for row in file.execute(
            "SELECT made.revision.id FROM made.revision JOIN main.revision ON main.revision.id ="
            " made.revision.id WHERE made.revision.id <= ? AND (made.revision.signatures <>"
            " main.revision.signatures OR made.revision.removed_at IS NOT"
            " main.revision.removed_at)",
            (last,),
        )
    ]
    for number in changed:
        file.execute(
            "UPDATE main.revision SET (signatures, removed_at) = (SELECT signatures, removed_at"
            " FROM made.revision WHERE id = ?) WHERE id = ?",
            (number, number),
        )
        file.execute(
            "INSERT OR REPLACE INTO main.listing SELECT * FROM made.listing WHERE revision_id = ?",
            (number,),
        )
