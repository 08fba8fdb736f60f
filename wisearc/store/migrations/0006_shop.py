"""Add the equipment of the shop, the machine and torch in use, the last settings and the ticks.

A count changes only by additions.
"""

STATEMENTS = (
    """CREATE TABLE owned (
        id INTEGER PRIMARY KEY, list TEXT NOT NULL, identity TEXT NOT NULL, item TEXT NOT NULL CHECK (json_valid(item)),
        count INTEGER NOT NULL DEFAULT 1 CHECK (count >= 0), removed_at TEXT) STRICT""",
    "CREATE UNIQUE INDEX owned_once ON owned (list, identity)",
    """CREATE TABLE shop (
        one INTEGER PRIMARY KEY CHECK (one = 1), name TEXT NOT NULL DEFAULT '', machine TEXT NOT NULL DEFAULT '', torch TEXT NOT NULL DEFAULT '',
        entered TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(entered)), has TEXT CHECK (has IS NULL OR json_valid(has)),
        changes INTEGER NOT NULL DEFAULT 0) STRICT""",
    "INSERT INTO shop (one) VALUES (1)",
    (
        "CREATE TRIGGER owned_added AFTER INSERT ON owned BEGIN UPDATE shop SET changes = changes +"
        " 1; END"
    ),
    (
        "CREATE TRIGGER owned_changed AFTER UPDATE ON owned BEGIN UPDATE shop SET changes = changes"
        " + 1; END"
    ),
    (
        "CREATE TRIGGER owned_gone AFTER DELETE ON owned BEGIN UPDATE shop SET changes = changes +"
        " 1; END"
    ),
    """CREATE TABLE setup (
        id INTEGER PRIMARY KEY, what TEXT NOT NULL, title TEXT NOT NULL, machine TEXT NOT NULL DEFAULT '', who TEXT NOT NULL DEFAULT '',
        dial TEXT NOT NULL CHECK (json_valid(dial)), ticks TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(ticks)),
        begun_at TEXT NOT NULL, set_at TEXT) STRICT""",
    "CREATE INDEX setup_what ON setup (what, id)",
    "CREATE INDEX setup_set ON setup (machine, set_at, id) WHERE set_at IS NOT NULL",
)


def up(migrator, db):
    """Create the tables, without rows."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
