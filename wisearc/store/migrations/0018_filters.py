"""Rebuild the list of the library with columns for filters, and add saved views.

The list is derived: the next opening fills it.
"""

STATEMENTS = (
    "DROP TABLE listing",
    """CREATE TABLE listing (
        revision_id INTEGER PRIMARY KEY REFERENCES revision (id) ON DELETE CASCADE, number INTEGER NOT NULL, letter TEXT NOT NULL,
        status TEXT NOT NULL, title TEXT NOT NULL, current_a REAL, rod TEXT, joint TEXT NOT NULL DEFAULT '',
        metals TEXT NOT NULL DEFAULT '', service TEXT NOT NULL DEFAULT '', thin_mm REAL, thick_mm REAL, diameter_mm REAL,
        runs INTEGER NOT NULL, good INTEGER NOT NULL, used_at TEXT NOT NULL, made_as INTEGER NOT NULL) STRICT""",
    # A page far down the list reads this index alone.
    """CREATE INDEX listing_order ON listing (number DESC, length(letter) DESC, letter DESC)
        WHERE status <> 'removed'""",
    "CREATE INDEX listing_state ON listing (status, number DESC, length(letter) DESC, letter DESC)",
    "CREATE INDEX listing_used ON listing (used_at DESC)",
    "CREATE INDEX listing_title ON listing (title, number)",
    "CREATE INDEX listing_thin ON listing (thin_mm, number)",
    "CREATE INDEX listing_runs ON listing (runs DESC, number DESC)",
    "CREATE INDEX listing_joint ON listing (joint, thin_mm)",
    "CREATE INDEX listing_rod ON listing (rod, number DESC)",
    "CREATE INDEX listing_service ON listing (service, number DESC)",
    """CREATE TABLE listing_word (
        kind TEXT NOT NULL, value TEXT NOT NULL, revision_id INTEGER NOT NULL REFERENCES revision (id) ON DELETE CASCADE,
        PRIMARY KEY (kind, value, revision_id)) STRICT, WITHOUT ROWID""",
    "CREATE INDEX listing_word_revision ON listing_word (revision_id)",
    """CREATE TABLE saved_view (
        id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, query TEXT NOT NULL, saved_at TEXT NOT NULL) STRICT""",
    # Every record is listed again.
    "DELETE FROM finding",
    "DROP INDEX revision_changed",
)


def up(migrator, db):
    """Create the tables. The next start fills them."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
