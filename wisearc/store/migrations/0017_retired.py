"""Allow to retire a verified procedure, and add the list of procedures that each job uses."""

STATEMENTS = (
    "DROP TRIGGER revision_put_away",
    """CREATE TABLE job_use (
        job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE, label TEXT NOT NULL,
        PRIMARY KEY (label, job_id)) STRICT""",
    """INSERT INTO job_use (job_id, label) SELECT DISTINCT job.id, seam.value ->> '$.procedure'
        FROM job, json_each(job.data, '$.seams') AS seam WHERE seam.value ->> '$.procedure' IS NOT NULL""",
    """CREATE TRIGGER job_use_added AFTER INSERT ON job BEGIN
        INSERT INTO job_use (job_id, label) SELECT DISTINCT new.id, seam.value ->> '$.procedure'
            FROM json_each(new.data, '$.seams') AS seam WHERE seam.value ->> '$.procedure' IS NOT NULL; END""",
    """CREATE TRIGGER job_use_changed AFTER UPDATE OF data ON job BEGIN
        DELETE FROM job_use WHERE job_id = new.id;
        INSERT INTO job_use (job_id, label) SELECT DISTINCT new.id, seam.value ->> '$.procedure'
            FROM json_each(new.data, '$.seams') AS seam WHERE seam.value ->> '$.procedure' IS NOT NULL; END""",
)


def up(migrator, db):
    """Add the table and its triggers."""
    for statement in STATEMENTS:
        db.execute_sql(statement)
