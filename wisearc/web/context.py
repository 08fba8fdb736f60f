"""The services of the application for its requests, typed: one accessor without names."""

from __future__ import annotations

from flask import Flask, current_app
from msgspec import Struct

from ..services.background import Background
from ..services.devices.devices import Devices
from ..services.documents.requests import DocumentRequests
from ..services.heat.requests import HeatRequests
from ..services.jobs.order_searches import Searches
from ..services.maintenance.file_collector import FileCollector
from ..services.maintenance.opening import Store
from ..services.maintenance.tasks import TaskRunner
from ..services.people.attempts import AttemptLimiter
from ..services.people.lead_sessions import LeadSessions
from ..services.photographs.requests import PhotographRequests
from ..services.practice.learners import LearnerSessions
from ..services.practice.seams import PracticeSeams
from ..services.purge.oxygen import Listeners
from ..services.purge.purge_status import Fits
from ..services.runs.arc_columns import ArcColumns
from ..services.runs.kept_files import KeptFiles
from ..services.runs.log_imports import LogImports
from ..services.weld_session.arc_source import Sources
from .network import Network
from .work_queue import WorkQueue

KEY = "wisearc"


class Context(Struct, frozen=True):
    """The services of an application, from its start to its end."""

    store: Store
    background: Background
    tasks: TaskRunner
    devices: Devices
    network: Network
    searches: Searches
    sources: Sources
    kept_files: KeptFiles
    arc_columns: ArcColumns
    log_readings: LogImports
    listeners: Listeners
    fits: Fits
    file_collector: FileCollector
    lead_sessions: LeadSessions
    pin_limiter: AttemptLimiter
    work_queue: WorkQueue
    heat_requests: HeatRequests
    practice_seams: PracticeSeams
    learner_sessions: LearnerSessions
    documents: DocumentRequests
    photographs: PhotographRequests

    def close(self) -> None:
        """Stop the background work."""
        self.file_collector.stop()
        self.tasks.stop()
        self.listeners.close()
        self.searches.close()
        self.heat_requests.close()
        self.practice_seams.close()
        self.documents.close()
        self.photographs.close()
        self.sources.close()
        self.log_readings.close()
        self.arc_columns.close()
        self.background.close()


def get_context(app: Flask) -> Context:
    """Return the services of an application."""
    context: Context = app.extensions[KEY]
    return context


def get_request_context() -> Context:
    """Return the services of the application of this request."""
    return get_context(current_app)
