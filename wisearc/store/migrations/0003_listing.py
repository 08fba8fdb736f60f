"""Add the list and search index of the library, and the signatures and numbers of imported files."""

STATEMENTS = (
    # Existing rows do not change: they have no signatures.
    (
        "ALTER TABLE revision ADD COLUMN signatures TEXT NOT NULL DEFAULT '[]' CHECK"
        " (json_valid(signatures))"
    ),
    # The number of the procedure in its imported file.
    "ALTER TABLE revision ADD COLUMN taken_as TEXT",
    """CREATE TABLE listing (
        revision_id INTEGER PRIMARY KEY REFERENCES revision (id) ON DELETE CASCADE, number INTEGER NOT NULL, letter TEXT NOT NULL,
        status TEXT NOT NULL, title TEXT NOT NULL, current_a REAL, rod TEXT, runs INTEGER NOT NULL, good INTEGER NOT NULL,
        made_as INTEGER NOT NULL) STRICT""",
    "CREATE INDEX listing_order ON listing (number DESC, length(letter) DESC, letter DESC)",
    "CREATE INDEX listing_state ON listing (status, number DESC, length(letter) DESC, letter DESC)",
    """CREATE VIRTUAL TABLE finding USING fts5 (
        number, title, metals, thickness, rods, who, notes, tokenize = "unicode61 tokenchars '.'", prefix = '2 3')""",
)


def up(migrator, db):
    """Create the tables. The next start fills them."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
