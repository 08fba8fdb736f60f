"""Add purges with their times and meter readings, and ticked lists."""

STATEMENTS = (
    """CREATE TABLE purge (
        id INTEGER PRIMARY KEY, what TEXT NOT NULL, title TEXT NOT NULL, ask TEXT NOT NULL CHECK (json_valid(ask)), port INTEGER,
        began REAL NOT NULL, started REAL, arc_off REAL, ended REAL, record TEXT CHECK (record IS NULL OR json_valid(record)),
        run INTEGER REFERENCES run (id)) STRICT""",
    "CREATE INDEX purge_what ON purge (what, id)",
    """CREATE TABLE ticked (
        what TEXT NOT NULL, list TEXT NOT NULL, ticks TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(ticks)), PRIMARY KEY (what, list)) STRICT""",
)


def up(migrator, db):
    """Create the tables, without rows."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
