"""Use cases of the data folder: opening, backup, restore, archive, check, demo."""
