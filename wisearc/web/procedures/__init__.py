"""The Procedures section: procedures, their revisions and runs."""

from ...services.procedures.procedure_files import MAX_FILE_BYTES
from ..navigation import Place
from . import inbox_views, library_views, run_views, signature_views
from .views import blueprint

PLACE = Place(
    blueprint,
    "procedures.index",
    "Procedures",
    "r",
    50,
    tint="blue",
    larger={
        "/procedures/read": MAX_FILE_BYTES,
        "/procedures/inbox/files": inbox_views.MAX_UPLOAD_BYTES,
    },
)

__all__ = ["PLACE", "inbox_views", "library_views", "run_views", "signature_views"]
