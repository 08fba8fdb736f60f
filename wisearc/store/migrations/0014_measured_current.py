"""Add whether the current of a run was measured, and let a run gain its repairs.

Only runs with a measured current count in the shop history. The next start reads the existing runs
again. A repair is added to its run and changes nothing else in it.
"""

STATEMENTS = (
    "ALTER TABLE run ADD COLUMN read_off TEXT",
    "ALTER TABLE learnt ADD COLUMN unknown INTEGER NOT NULL DEFAULT 0",
    "DROP TRIGGER run_corrected",
    """CREATE TRIGGER run_corrected BEFORE UPDATE OF made_on, record ON run
        WHEN json_array_length(new.corrections) <> json_array_length(old.corrections) + 1
            AND (new.made_on <> old.made_on
                OR json_remove(new.record, '$.seen', '$.reading', '$.repairs') <> json_remove(old.record, '$.seen', '$.reading', '$.repairs'))
        BEGIN SELECT RAISE(ABORT, 'a run that was written down changes only with what it said before'); END""",
)


def up(migrator, db):
    """Add the columns."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
