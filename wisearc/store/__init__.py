"""What is kept: SQLite through peewee."""
