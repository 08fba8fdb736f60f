"""Add the inbox: arc logs and photographs that wait for their run."""

STATEMENTS = (
    """CREATE TABLE inbox (
        id INTEGER PRIMARY KEY, kind TEXT NOT NULL CHECK (kind IN ('photograph', 'log')), name TEXT NOT NULL, sha256 TEXT NOT NULL,
        taken_at TEXT NOT NULL, known_by TEXT NOT NULL, machine TEXT NOT NULL DEFAULT '', arc_s REAL, added_at TEXT NOT NULL,
        run_id INTEGER REFERENCES run (id), dropped_at TEXT) STRICT""",
    "CREATE UNIQUE INDEX inbox_waiting ON inbox (sha256) WHERE run_id IS NULL AND dropped_at IS NULL",
    "CREATE INDEX inbox_run ON inbox (run_id) WHERE run_id IS NOT NULL",
    "CREATE INDEX run_kept_at ON run (kept_at)",
    # A run also gains photographs and an arc log later.
    "DROP TRIGGER run_corrected",
    """CREATE TRIGGER run_corrected BEFORE UPDATE OF made_on, record ON run
        WHEN json_array_length(new.corrections) <> json_array_length(old.corrections) + 1
            AND (new.made_on <> old.made_on
                OR json_remove(new.record, '$.seen', '$.reading', '$.repairs', '$.photographs', '$.arc', '$.arc_log', '$.left_band')
                <> json_remove(old.record, '$.seen', '$.reading', '$.repairs', '$.photographs', '$.arc', '$.arc_log', '$.left_band'))
        BEGIN SELECT RAISE(ABORT, 'a run that was written down changes only with what it said before'); END""",
)


def up(migrator, db):
    """Create the table, without rows, and the index by which the inbox finds runs."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
