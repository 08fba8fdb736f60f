"""Add the shop that a revision was received from."""

STATEMENTS = ("ALTER TABLE revision ADD COLUMN received_from TEXT",)


def up(migrator, db):
    """Add the column. Existing rows do not change."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
