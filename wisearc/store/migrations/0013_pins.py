"""The leads' PINs stand beside the book and not in it: a copy of the book opens nothing."""

from pathlib import Path

from wisearc.store.pins import Pins


def up(migrator, db):
    """Take the hashes over into their file, and the column away."""
    rows = db.execute_sql(
        "SELECT initials, pin FROM person WHERE pin <> '' AND removed_at IS NULL"
    ).fetchall()
    if rows:
        pins = Pins(Path(db.path).parent)
        for initials, hashed in rows:
            pins.put(initials, hashed)
    # what is taken away is written over, not only let go
    db.execute_sql("PRAGMA secure_delete = ON")
    db.execute_sql("UPDATE person SET pin = ''")
    db.execute_sql("ALTER TABLE person DROP COLUMN pin")
