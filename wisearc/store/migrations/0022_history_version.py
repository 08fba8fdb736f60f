"""Mark the state of the shop history, so that its statistics are calculated once for each state."""

_RENEW = "BEGIN UPDATE history_version SET version = random(); END"
STATEMENTS = (
    "CREATE TABLE history_version (version INTEGER NOT NULL) STRICT",
    # Random, so that a restored library has no mark of another state.
    "INSERT INTO history_version VALUES (random())",
    *(
        f"CREATE TRIGGER history_{act} AFTER {act} ON learnt {_RENEW}"
        for act in ("insert", "update", "delete")
    ),
    f"CREATE TRIGGER history_confirmed AFTER UPDATE OF read_off ON run {_RENEW}",
)


def up(migrator, db):
    """Create the table of one row and its triggers."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
