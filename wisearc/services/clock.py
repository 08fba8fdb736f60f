"""The time of records."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

# In the first time zone of the day it is already tomorrow.
_FIRST_TO_BEGIN = timedelta(hours=14)


def get_now() -> str:
    """Return the time, UTC, to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def get_latest_day(at: str) -> str:
    """Return the date in the first time zone of the day."""
    return (datetime.fromisoformat(at) + _FIRST_TO_BEGIN).date().isoformat()
