"""The process that makes documents for pages: one request a line in, one answer a line out.

A request is `{"id", "request", "out"}`. Its answer is `{"id", "done"}` or `{"id", "error"}`. The
document is in the file `out`.
"""

from __future__ import annotations

import json
import os
from contextlib import suppress
from pathlib import Path
from typing import TextIO

import msgspec

from ..core.errors import WiseArcError
from ..core.schema.json_types import Json, JsonObject
from ..services.maintenance.opening import open_library
from .make import DocumentRequest, make_document
from .pdf import NoPdf, load_library

# A document must not slow the pages.
_NICE = 5


def serve_requests(folder: Path, source: TextIO, target: TextIO) -> None:
    """Answer requests until the input ends.

    Args:
        folder: The data folder.
        source: The requests.
        target: The answers.
    """
    os.nice(_NICE)
    # The import takes half a second: before the first request needs it. Without the libraries each
    # answer is an error.
    with suppress(NoPdf):
        load_library()
    for line in source:
        data = json.loads(line)
        answer = {"id": data["id"], **_answer(folder, data)}
        target.write(json.dumps(answer) + "\n")
        target.flush()


def _answer(folder: Path, data: JsonObject) -> dict[str, Json]:
    try:
        request = msgspec.convert(data["request"], DocumentRequest)
        store = open_library(folder)
        try:
            document = make_document(request, folder, lambda _done, _of: True)
        finally:
            store.close()
        Path(str(data["out"])).write_bytes(document)
    except WiseArcError as error:
        return {"error": str(error)}
    except OSError as error:
        return {"error": f"The document cannot be written ({error.strerror})."}
    return {"done": True}
