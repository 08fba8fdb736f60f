"""The saved data: SQLite through peewee."""
