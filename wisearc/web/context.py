"""What the application holds for its requests, typed: one accessor instead of look-ups by name."""

from __future__ import annotations

from flask import Flask, current_app
from msgspec import Struct

from ..services.background import Background
from ..services.devices.devices import Devices
from ..services.jobs.searching import Searches
from ..services.maintenance.file_collector import FileCollector
from ..services.maintenance.opening import Store
from ..services.maintenance.tasks import TaskRunner
from ..services.people.attempts import AttemptLimiter
from ..services.people.lead_sessions import LeadSessions
from ..services.purge.oxygen import Listeners
from ..services.purge.purge_run import Fits
from ..services.runs.arc_columns import ArcColumns
from ..services.runs.kept_files import KeptFiles
from ..services.runs.log_reading import LogReadings
from ..services.weld_session.arc_source import Sources
from .network import Network
from .work_queue import WorkQueue

KEY = "wisearc"


class Context(Struct, frozen=True):
    """What one application holds, from its start to its end."""

    store: Store
    background: Background
    tasks: TaskRunner
    devices: Devices
    network: Network
    searches: Searches
    sources: Sources
    kept_files: KeptFiles
    arc_columns: ArcColumns
    log_readings: LogReadings
    listeners: Listeners
    fits: Fits
    file_collector: FileCollector
    lead_sessions: LeadSessions
    pin_limiter: AttemptLimiter
    work_queue: WorkQueue

    def close(self) -> None:
        """End what goes on beside the requests."""
        self.file_collector.stop()
        self.tasks.stop()
        self.listeners.close()
        self.searches.close()
        self.sources.close()
        self.log_readings.close()
        self.arc_columns.close()
        self.background.close()


def get_context(app: Flask) -> Context:
    """What an application holds."""
    found: Context = app.extensions[KEY]
    return found


def get_request_context() -> Context:
    """What the application of this request holds."""
    return get_context(current_app)
