"""Add jobs: their entries, every change, and their finished runs."""

STATEMENTS = (
    """CREATE TABLE job (
        id INTEGER PRIMARY KEY, title TEXT NOT NULL, data TEXT NOT NULL CHECK (json_valid(data)), edit INTEGER NOT NULL DEFAULT 1,
        once TEXT UNIQUE, created_at TEXT NOT NULL, changed_at TEXT NOT NULL, done_at TEXT, removed_at TEXT) STRICT""",
    """CREATE TABLE job_change (
        id INTEGER PRIMARY KEY, job INTEGER NOT NULL REFERENCES job (id), edit INTEGER NOT NULL, subject TEXT NOT NULL, words TEXT NOT NULL, who TEXT NOT NULL DEFAULT '',
        change TEXT NOT NULL CHECK (json_valid(change)), before TEXT CHECK (before IS NULL OR json_valid(before)), against INTEGER, at TEXT NOT NULL, settled INTEGER NOT NULL DEFAULT 0) STRICT""",
    "CREATE INDEX job_change_job ON job_change (job, edit)",
    """CREATE TABLE job_tick (
        job INTEGER NOT NULL REFERENCES job (id), seam TEXT NOT NULL, piece INTEGER NOT NULL, who TEXT NOT NULL DEFAULT '', at TEXT NOT NULL, run INTEGER REFERENCES run (id),
        PRIMARY KEY (job, seam, piece)) STRICT""",
)


def up(migrator, db):
    """Create the tables, without rows."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
