"""Move the lead PINs to a file of their own, so that no copy of the database has them."""

from pathlib import Path

from wisearc.store.pins import PinFile


def up(migrator, db):
    """Copy the hashes to the file and delete the column."""
    rows = db.execute_sql(
        "SELECT initials, pin FROM person WHERE pin <> '' AND removed_at IS NULL"
    ).fetchall()
    if rows:
        pins = PinFile(Path(db.path).parent)
        for initials, pin_hash in rows:
            pins.set_hash(initials, pin_hash)
    # SQLite overwrites the deleted hashes.
    db.execute_sql("PRAGMA secure_delete = ON")
    db.execute_sql("UPDATE person SET pin = ''")
    db.execute_sql("ALTER TABLE person DROP COLUMN pin")
