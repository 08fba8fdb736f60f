"""Add the acts on the record, each with the data for its undo."""

STATEMENTS = (
    """CREATE TABLE record_act (
        id INTEGER PRIMARY KEY, procedure_id INTEGER NOT NULL REFERENCES procedure (id) ON DELETE CASCADE,
        kind TEXT NOT NULL, letter TEXT NOT NULL, run_id INTEGER REFERENCES run (id) ON DELETE CASCADE,
        text TEXT NOT NULL, before TEXT CHECK (before IS NULL OR json_valid(before)), at TEXT NOT NULL, undone_at TEXT) STRICT""",
    "CREATE INDEX record_act_last ON record_act (procedure_id, id DESC)",
    "CREATE INDEX record_act_run ON record_act (run_id) WHERE run_id IS NOT NULL",
)


def up(migrator, db):
    """Create the table, without rows."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
