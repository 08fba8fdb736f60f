"""Add the tries of practice, and the owner of an attempt of a drill.

A try belongs to a learner: the secret of a device, or a person with a PIN. It verifies nothing.
"""

STATEMENTS = (
    """CREATE TABLE practice_try (
        id INTEGER PRIMARY KEY, learner TEXT NOT NULL, lesson TEXT NOT NULL, kind TEXT NOT NULL, title TEXT NOT NULL, score REAL NOT NULL CHECK (score BETWEEN 0 AND 100),
        result TEXT NOT NULL CHECK (json_valid(result)), track BLOB, once TEXT UNIQUE, at TEXT NOT NULL, removed_at TEXT) STRICT""",
    "CREATE INDEX practice_try_of ON practice_try (learner, lesson, id)",
    "ALTER TABLE drilled ADD COLUMN learner TEXT",
    "CREATE INDEX drilled_of ON drilled (drill, learner, id)",
)


def up(migrator, db):
    """Create the table. Earlier attempts keep their initials and have no owner."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
