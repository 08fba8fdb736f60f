"""Add the approaches of the shop for new joints."""


def up(migrator, db):
    """Create the table."""
    db.execute_sql(
        "CREATE TABLE school (key TEXT PRIMARY KEY CHECK (key <> ''), value TEXT NOT NULL CHECK"
        " (value <> '')) STRICT, WITHOUT ROWID"
    )
