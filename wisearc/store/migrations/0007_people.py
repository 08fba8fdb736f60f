"""Whose hands there are: initials, names, roles; a lead's PIN as its hash."""

STATEMENTS = (
    """CREATE TABLE person (
        id INTEGER PRIMARY KEY, initials TEXT NOT NULL, name TEXT NOT NULL DEFAULT '',
        role TEXT NOT NULL CHECK (role IN ('welder', 'lead', 'viewer')), pin TEXT NOT NULL DEFAULT '', removed_at TEXT) STRICT""",
    "CREATE UNIQUE INDEX person_initials ON person (initials) WHERE removed_at IS NULL",
)


def up(migrator, db):
    """Add it; nobody is entered."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
