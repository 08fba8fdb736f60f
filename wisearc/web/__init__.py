"""The web application: a factory for the sections, each in a separate folder."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from flask import Flask, Response, request
from flask_compress import Compress
from flask_wtf.csrf import CSRFProtect, generate_csrf
from markupsafe import Markup

from .. import __version__
from ..core.run.inspection import COLOUR_NAMES, FACE_NAMES
from ..services.background import Background
from ..services.devices.devices import Devices
from ..services.diagnosis.history import WELDER, normalise_initials
from ..services.documents.requests import DocumentRequests
from ..services.heat.requests import HeatRequests
from ..services.jobs.order_searches import Searches
from ..services.maintenance.file_collector import FileCollector
from ..services.maintenance.opening import load_session_secret, open_data
from ..services.maintenance.tasks import TaskRunner
from ..services.people.attempts import AttemptLimiter
from ..services.people.lead_sessions import LeadSessions
from ..services.photographs.requests import PhotographRequests
from ..services.practice.learners import LearnerSessions
from ..services.practice.seams import PracticeSeams
from ..services.procedures.library_search import find_library_kind
from ..services.procedures.states import STATUS_NAMES
from ..services.purge.oxygen import Listeners
from ..services.purge.purge_status import Fits
from ..services.runs.arc_columns import ArcColumns
from ..services.runs.kept_files import KeptFiles
from ..services.runs.log_imports import LogImports
from ..services.weld_session.arc_source import Sources
from . import (
    devices,
    error_summary,
    errors,
    gate,
    guide,
    old_addresses,
    people,
    preferences,
    throttle,
)
from .context import KEY, Context, get_context, get_request_context
from .heat import views as heat_views
from .learn.steps import SeamSteps
from .navigation import list_sections
from .network import Network
from .numbers import RowConverter
from .people import access
from .sessions import Sessions
from .template_cache import TemplateCache
from .work_queue import WorkQueue

CONTENT_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; worker-src 'self';"
    " img-src 'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none';"
    " frame-ancestors 'none'"
)
MAX_FORM_BYTES = 512 * 1024
csrf = CSRFProtect()


def build_csrf_field() -> Markup:
    """Return the hidden field of every form with changes."""
    return Markup('<input type="hidden" name="csrf_token" value="{}">').format(generate_csrf())


def create_app(
    data: Path,
    held: Any = None,
    on_progress: Callable[[int, int], None] | None = None,
    **config: Any,
) -> Flask:
    """Create the application of a data folder.

    Args:
        data: The data folder.
        held: The lock of this process on the folder.
        on_progress: Receives the number of listed records and the total at the start.
        config: Further Flask settings.

    Raises:
        StoreError: The database cannot be used.
    """
    app = Flask(__name__)
    app.url_map.converters["row"] = RowConverter
    store = open_data(data, held, on_progress)
    secret = load_session_secret(store)
    app.config.update(
        # Cookies ignore ports, so each instance has a separate cookie.
        SECRET_KEY=secret,
        SESSION_COOKIE_NAME=f"wisearc-{hashlib.sha256(secret.encode()).hexdigest()[:8]}",
        MAX_CONTENT_LENGTH=MAX_FORM_BYTES,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,
        COMPRESS_ALGORITHM=["gzip"],
        COMPRESS_ALGORITHM_STREAMING=["gzip"],
        COMPRESS_MIMETYPES=[
            "text/html",
            "text/css",
            "text/javascript",
            "application/javascript",
            "application/json",
            "image/svg+xml",
        ],
        SEND_FILE_MAX_AGE_DEFAULT=3600,
        TEMPLATES_AUTO_RELOAD=False,
    )
    app.config.update(config)
    app.session_interface = Sessions()
    app.jinja_env.bytecode_cache = TemplateCache(data.absolute())
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.globals.update(
        csrf_field=build_csrf_field,
        COLOUR_NAMES=COLOUR_NAMES,
        FACE_NAMES=FACE_NAMES,
        STATUS_NAMES=STATUS_NAMES,
    )
    files = KeptFiles(data.absolute())
    background = Background()
    columns = ArcColumns(data.absolute(), files, background)
    app.extensions[KEY] = Context(
        store=store,
        background=background,
        tasks=TaskRunner(data.absolute(), background),
        devices=Devices(data.absolute()),
        network=Network(),
        searches=Searches(background),
        sources=Sources(data.absolute()),
        kept_files=files,
        arc_columns=columns,
        log_readings=LogImports(files, columns, background),
        listeners=Listeners(data.absolute()),
        fits=Fits(),
        file_collector=FileCollector(data.absolute(), store, background),
        lead_sessions=LeadSessions(),
        pin_limiter=AttemptLimiter(time.monotonic),
        work_queue=WorkQueue(),
        heat_requests=HeatRequests(background),
        practice_seams=PracticeSeams(background),
        learner_sessions=LearnerSessions(),
        documents=DocumentRequests(data.absolute(), background),
        photographs=PhotographRequests(data.absolute(), background),
    )
    gate.init_app(app)
    throttle.init_app(app)
    csrf.init_app(app)
    access.init_app(app)
    Compress(app)
    preferences.init_app(app)
    errors.init_app(app)
    error_summary.init_app(app)
    app.before_request(lambda: WELDER.set(normalise_initials(preferences.get_user())) and None)
    for place in list_sections():
        app.register_blueprint(place.blueprint)
    app.register_blueprint(devices.blueprint)
    app.register_blueprint(people.blueprint)
    app.register_blueprint(guide.blueprint)
    app.register_blueprint(heat_views.blueprint)
    app.register_blueprint(old_addresses.blueprint)
    # A redirect saves nothing. The new address checks the token.
    csrf.exempt(old_addresses.blueprint)
    larger = {path: maximum for place in list_sections() for path, maximum in place.larger.items()}
    app.config["LARGER_POSTS"] = old_addresses.with_old_addresses(larger)
    app.context_processor(
        lambda: {
            "version": __version__,
            "places": list_sections(),
            "reads_only": store.reads_only,
            "disk_full": store.is_full,
            "book_is": find_library_kind(),
        }
    )
    steps = SeamSteps(app.wsgi_app, get_context(app).practice_seams)
    app.wsgi_app = steps  # type: ignore[assignment,method-assign]
    app.after_request(_protect_response)
    app.teardown_request(_close)
    return app


def _protect_response(response: Response) -> Response:
    response.headers.setdefault("Content-Security-Policy", CONTENT_POLICY)
    response.headers.setdefault("X-Content-Type-Options", "nosniff")
    response.headers.setdefault("Referrer-Policy", "same-origin")
    if request.endpoint != "static":
        response.headers.setdefault("Cache-Control", "no-store")
    cookies = response.headers.getlist("Set-Cookie")
    if cookies and gate.needs_secure_cookies():
        # With this attribute a browser sends a cookie only over TLS.
        response.headers.setlist(
            "Set-Cookie",
            [cookie if "; secure" in cookie.lower() else f"{cookie}; Secure" for cookie in cookies],
        )
    return response


def _close(_error: BaseException | None) -> None:
    """Close the connection of the request, if it opened one."""
    get_request_context().store.close()
