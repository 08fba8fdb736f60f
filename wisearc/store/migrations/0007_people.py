"""Add people: initials, names, roles, and the PIN of a lead as its hash."""

STATEMENTS = (
    """CREATE TABLE person (
        id INTEGER PRIMARY KEY, initials TEXT NOT NULL, name TEXT NOT NULL DEFAULT '',
        role TEXT NOT NULL CHECK (role IN ('welder', 'lead', 'viewer')), pin TEXT NOT NULL DEFAULT '', removed_at TEXT) STRICT""",
    "CREATE UNIQUE INDEX person_initials ON person (initials) WHERE removed_at IS NULL",
)


def up(migrator, db):
    """Create the table, without rows."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
