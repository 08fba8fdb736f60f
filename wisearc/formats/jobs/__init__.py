"""Files of a job: JSON and CSV."""
