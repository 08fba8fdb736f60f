"""Add weld sessions and their events.

Each event has a number, so that it is saved once.
"""

STATEMENTS = (
    """CREATE TABLE at_arc (
        id INTEGER PRIMARY KEY, what TEXT NOT NULL, title TEXT NOT NULL, job TEXT NOT NULL DEFAULT '', once TEXT NOT NULL UNIQUE, who TEXT NOT NULL DEFAULT '',
        port INTEGER, began REAL NOT NULL, clocks TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(clocks)), ended REAL, left_at REAL, log TEXT CHECK (log IS NULL OR json_valid(log)), run INTEGER REFERENCES run (id)) STRICT""",
    "CREATE INDEX at_arc_what ON at_arc (what, id)",
    """CREATE TABLE act (
        id TEXT PRIMARY KEY, at_arc INTEGER NOT NULL REFERENCES at_arc (id), device TEXT NOT NULL, at REAL NOT NULL, step TEXT NOT NULL, key TEXT NOT NULL) STRICT""",
    "CREATE INDEX act_at_arc ON act (at_arc, at)",
)


def up(migrator, db):
    """Create the tables, without rows."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
