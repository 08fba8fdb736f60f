"""Add the indexes by which the first page finds the last work.

Without them each page would read every plan and every run of a large library.
"""

STATEMENTS = (
    "CREATE INDEX revision_changed ON revision (changed_at)",
    "CREATE INDEX run_kept ON run (revision_id, kept_at)",
)


def up(migrator, db):
    """Create the indexes."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
