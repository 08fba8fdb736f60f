"""Use cases at the arc: sessions, their events, a connected power source."""
