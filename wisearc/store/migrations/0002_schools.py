"""The schools a shop has chosen for its new joints."""


def up(migrator, db):
    """Make the table."""
    db.execute_sql(
        "CREATE TABLE school (key TEXT PRIMARY KEY CHECK (key <> ''), value TEXT NOT NULL CHECK"
        " (value <> '')) STRICT, WITHOUT ROWID"
    )
