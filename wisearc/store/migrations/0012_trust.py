"""Allow corrections of “good”, which keep their trace.

A verified revision without a valid good run is a draft again. A set-up saves its open lines.
"""

STATEMENTS = (
    # A draft with runs stays visible next to a later draft.
    "DROP INDEX revision_one_draft",
    "DROP TRIGGER run_kept",
    """CREATE TRIGGER run_kept BEFORE UPDATE OF revision_id, good ON run
        WHEN new.revision_id <> old.revision_id OR (new.good <> old.good
            AND json_array_length(new.corrections) <> json_array_length(old.corrections) + 1)
        BEGIN SELECT RAISE(ABORT, 'a run that was written down is not changed'); END""",
    "DROP TRIGGER revision_kept",
    """CREATE TRIGGER revision_kept BEFORE UPDATE ON revision
        WHEN old.status <> 'draft' AND (new.joint <> old.joint OR new.plan <> old.plan
            OR new.bands <> old.bands OR new.letter <> old.letter
            OR (new.status = 'draft' AND EXISTS (SELECT 1 FROM run
                WHERE run.revision_id = old.id AND run.good = 1 AND run.voided_at IS NULL)))
        BEGIN SELECT RAISE(ABORT, 'a proved revision cannot be edited'); END""",
    """ALTER TABLE setup ADD COLUMN left_open TEXT NOT NULL DEFAULT '[]'
        CHECK (json_valid(left_open))""",
)


def up(migrator, db):
    """Replace the triggers. Existing rows do not change."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
