"""Add the identifier of the library and its number of writes, archived drafts and voided runs.

Triggers refuse to delete records.
"""

STATEMENTS = (
    (
        "CREATE TABLE book (id TEXT NOT NULL, writes INTEGER NOT NULL, one INTEGER PRIMARY KEY"
        " CHECK (one = 1)) STRICT"
    ),
    "INSERT INTO book (id, writes, one) VALUES (lower(hex(randomblob(8))), 0, 1)",
    "ALTER TABLE revision ADD COLUMN removed_at TEXT",
    "ALTER TABLE run ADD COLUMN voided_at TEXT",
    "ALTER TABLE run ADD COLUMN voided_by TEXT",
    "DROP INDEX revision_one_draft",
    (
        "CREATE UNIQUE INDEX revision_one_draft ON revision (procedure_id) WHERE status = 'draft'"
        " AND removed_at IS NULL"
    ),
    "DROP INDEX run_revision",
    "CREATE INDEX run_revision ON run (revision_id, made_on, id)",
    "CREATE INDEX run_standing ON run (revision_id, good) WHERE voided_at IS NULL",
    "CREATE INDEX revision_state ON revision (procedure_id, status)",
    "CREATE INDEX revision_taken ON revision (taken_as) WHERE taken_as IS NOT NULL",
    """CREATE TRIGGER revision_put_away BEFORE UPDATE OF removed_at ON revision
        WHEN new.removed_at IS NOT NULL AND old.status <> 'draft'
        BEGIN SELECT RAISE(ABORT, 'only a draft can be put away'); END""",
    """CREATE TRIGGER revision_stays BEFORE DELETE ON revision WHEN old.status <> 'draft'
        BEGIN SELECT RAISE(ABORT, 'a proved revision is not deleted'); END""",
    """CREATE TRIGGER run_kept BEFORE UPDATE OF revision_id, made_on, record, good ON run
        BEGIN SELECT RAISE(ABORT, 'a run that was written down is not changed'); END""",
    """CREATE TRIGGER run_stays BEFORE DELETE ON run
        BEGIN SELECT RAISE(ABORT, 'a run that was written down is not deleted'); END""",
    """CREATE TRIGGER procedure_number BEFORE INSERT ON procedure WHEN new.number > 999999
        BEGIN SELECT RAISE(ABORT, 'a number has at most six digits'); END""",
)


def up(migrator, db):
    """Add the columns and triggers. Existing rows do not change."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
