"""Add the corrections of runs, and the kind of the library.

A recorded run changes only with a correction.
"""

STATEMENTS = (
    "ALTER TABLE book ADD COLUMN kind TEXT NOT NULL DEFAULT '' CHECK (kind IN ('', 'demo', 'own'))",
    (
        "ALTER TABLE run ADD COLUMN corrections TEXT NOT NULL DEFAULT '[]' CHECK"
        " (json_valid(corrections))"
    ),
    "DROP TRIGGER run_kept",
    """CREATE TRIGGER run_kept BEFORE UPDATE OF revision_id, good ON run
        BEGIN SELECT RAISE(ABORT, 'a run that was written down is not changed'); END""",
    """CREATE TRIGGER run_corrected BEFORE UPDATE OF made_on, record ON run
        WHEN json_array_length(new.corrections) <> json_array_length(old.corrections) + 1
        BEGIN SELECT RAISE(ABORT, 'a run that was written down changes only with what it said before'); END""",
    """CREATE TRIGGER run_struck_out_value BEFORE UPDATE OF corrections ON run
        WHEN json_array_length(new.corrections) < json_array_length(old.corrections)
            OR EXISTS (SELECT 1 FROM json_each(old.corrections) AS was
                WHERE was.value IS NOT (SELECT value FROM json_each(new.corrections) AS kept WHERE kept.key = was.key))
        BEGIN SELECT RAISE(ABORT, 'what a run said before it was corrected is kept'); END""",
)


def up(migrator, db):
    """Add the columns. Existing rows have no corrections."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
