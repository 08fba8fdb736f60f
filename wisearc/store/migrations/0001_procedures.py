"""Add procedures, their revisions and their runs."""

STATEMENTS = (
    """CREATE TABLE procedure (
        id INTEGER PRIMARY KEY, number INTEGER NOT NULL UNIQUE CHECK (number > 0), once TEXT UNIQUE,
        created_at TEXT NOT NULL) STRICT""",
    """CREATE TABLE revision (
        id INTEGER PRIMARY KEY, procedure_id INTEGER NOT NULL REFERENCES procedure (id) ON DELETE RESTRICT,
        letter TEXT NOT NULL CHECK (letter <> ''), status TEXT NOT NULL CHECK (status IN ('draft', 'proved', 'superseded')),
        title TEXT NOT NULL, joint TEXT NOT NULL CHECK (json_valid(joint)), plan TEXT NOT NULL CHECK (json_valid(plan)),
        bands TEXT NOT NULL CHECK (json_valid(bands)), edit INTEGER NOT NULL DEFAULT 1, once TEXT UNIQUE,
        changed_at TEXT NOT NULL, proved_at TEXT, UNIQUE (procedure_id, letter)) STRICT""",
    "CREATE UNIQUE INDEX revision_one_draft ON revision (procedure_id) WHERE status = 'draft'",
    "CREATE UNIQUE INDEX revision_one_proved ON revision (procedure_id) WHERE status = 'proved'",
    """CREATE TABLE run (
        id INTEGER PRIMARY KEY, revision_id INTEGER NOT NULL REFERENCES revision (id) ON DELETE RESTRICT,
        made_on TEXT NOT NULL, record TEXT NOT NULL CHECK (json_valid(record)), good INTEGER NOT NULL CHECK (good IN (0, 1)),
        once TEXT UNIQUE, kept_at TEXT NOT NULL) STRICT""",
    "CREATE INDEX run_revision ON run (revision_id)",
    # No program can change a verified or superseded revision.
    """CREATE TRIGGER revision_kept BEFORE UPDATE ON revision
        WHEN old.status <> 'draft' AND (new.joint <> old.joint OR new.plan <> old.plan OR new.bands <> old.bands OR new.letter <> old.letter OR new.status = 'draft')
        BEGIN SELECT RAISE(ABORT, 'a proved revision cannot be edited'); END""",
)


def up(migrator, db):
    """Create the tables."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
