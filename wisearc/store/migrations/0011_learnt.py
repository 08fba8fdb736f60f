"""Add the shop history, excluded runs, later inspections and drills.

The shop history has a row for each run, found by joint family and metals. A later inspection is added
to its run and changes nothing in it. A drill verifies nothing.
"""

STATEMENTS = (
    "ALTER TABLE run ADD COLUMN left_out TEXT",
    """CREATE TABLE learnt (
        run INTEGER PRIMARY KEY REFERENCES run (id), revision INTEGER NOT NULL REFERENCES revision (id), procedure INTEGER NOT NULL REFERENCES procedure (id), made_on TEXT NOT NULL,
        machine TEXT NOT NULL, hand TEXT NOT NULL, family TEXT NOT NULL, metals TEXT NOT NULL, good INTEGER NOT NULL, weight REAL NOT NULL, ratio REAL, pace REAL, held REAL,
        faults TEXT NOT NULL CHECK (json_valid(faults)), cause TEXT NOT NULL, change TEXT NOT NULL, left_out INTEGER NOT NULL) STRICT""",
    (
        "CREATE INDEX learnt_like ON learnt (family, metals, run) WHERE weight > 0 AND ratio IS NOT"
        " NULL"
    ),
    "CREATE INDEX learnt_revision ON learnt (revision)",
    """CREATE TABLE drilled (
        id INTEGER PRIMARY KEY, drill TEXT NOT NULL, hand TEXT NOT NULL, value REAL NOT NULL, met INTEGER NOT NULL, note TEXT NOT NULL DEFAULT '', once TEXT UNIQUE, at TEXT NOT NULL,
        removed_at TEXT) STRICT""",
    "CREATE INDEX drilled_by ON drilled (drill, hand, id)",
    (
        "CREATE TRIGGER learnt_added AFTER INSERT ON learnt WHEN new.weight > 0 BEGIN UPDATE shop"
        " SET changes = changes + 1; END"
    ),
    (
        "CREATE TRIGGER learnt_gone AFTER DELETE ON learnt WHEN old.weight > 0 BEGIN UPDATE shop"
        " SET changes = changes + 1; END"
    ),
    "DROP TRIGGER run_corrected",
    """CREATE TRIGGER run_corrected BEFORE UPDATE OF made_on, record ON run
        WHEN json_array_length(new.corrections) <> json_array_length(old.corrections) + 1
            AND (new.made_on <> old.made_on
                OR json_remove(new.record, '$.seen', '$.reading') <> json_remove(old.record, '$.seen', '$.reading'))
        BEGIN SELECT RAISE(ABORT, 'a run that was written down changes only with what it said before'); END""",
)


def up(migrator, db):
    """Create the tables. The next start reads the existing runs."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
