"""Add the run that verified a revision, the keys of shops, and the roles that a shop requires.

A revision can wait for signatures. What is signed cannot change.
"""

STATEMENTS = (
    (
        "ALTER TABLE revision ADD COLUMN verifying_run INTEGER REFERENCES run (id)"
        " DEFERRABLE INITIALLY DEFERRED"
    ),
    # The first good run that was recorded and is still valid.
    """UPDATE revision SET verifying_run = (SELECT run.id FROM run WHERE run.revision_id = revision.id
        AND run.good = 1 AND run.voided_at IS NULL ORDER BY run.kept_at, run.id LIMIT 1)
        WHERE status <> 'draft'""",
    "CREATE INDEX revision_verifying ON revision (verifying_run) WHERE verifying_run IS NOT NULL",
    """CREATE TABLE shop_key (
        key_id TEXT PRIMARY KEY, public TEXT NOT NULL, shop TEXT NOT NULL DEFAULT '',
        own INTEGER NOT NULL CHECK (own IN (0, 1)), added_at TEXT NOT NULL, replaced_at TEXT) STRICT""",
    "CREATE UNIQUE INDEX shop_key_own ON shop_key (own) WHERE own = 1 AND replaced_at IS NULL",
    "ALTER TABLE shop ADD COLUMN required_roles TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(required_roles))",
    """CREATE TRIGGER revision_signed BEFORE UPDATE OF title, joint, plan, bands, letter ON revision
        WHEN json_array_length(old.signatures) > 0 AND (new.title <> old.title OR new.joint <> old.joint
            OR new.plan <> old.plan OR new.bands <> old.bands OR new.letter <> old.letter)
        BEGIN SELECT RAISE(ABORT, 'a signed revision cannot be edited'); END""",
    """CREATE TRIGGER revision_signed_stays BEFORE DELETE ON revision
        WHEN json_array_length(old.signatures) > 0
        BEGIN SELECT RAISE(ABORT, 'a signed revision is not deleted'); END""",
)
_STATES = "('draft', 'proved', 'superseded')"
_MORE_STATES = "('draft', 'waiting', 'proved', 'superseded')"


def up(migrator, db):
    """Add the columns, the table and the triggers, and the new state."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
    # A CHECK constraint is changed in the schema itself: it does not affect the stored rows
    # (SQLite, ALTER TABLE, section 7).
    db.execute_sql("PRAGMA writable_schema = ON")
    db.execute_sql(
        "UPDATE sqlite_schema SET sql = replace(sql, ?, ?) WHERE type = 'table' AND name = 'revision'",
        (_STATES, _MORE_STATES),
    )
    db.execute_sql("PRAGMA writable_schema = RESET")
