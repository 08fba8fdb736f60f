"""A template as DXF, R2010, in mm: a layer for each purpose of a line."""

from __future__ import annotations

import io
import os
import sys
import tempfile
import threading
from functools import cache
from importlib import import_module

from ...core.templates.template import LAYERS, Flat

# The colour numbers of the layers in drawing programs.
_CACHE = "XDG_CACHE_HOME"
_COLOURS = {"cut": 1, "edge": 7, "quarter": 5, "waste": 8, "ruler": 3, "text": 7}


_lock = threading.Lock()


def is_loaded() -> bool:
    """Return whether the DXF library is imported."""
    return "ezdxf" in sys.modules


def load_library() -> None:
    """Import the DXF library without its cache in the home folder.

    The import changes the environment of the process: only one thread at a time.
    """
    with _lock:
        _load_once()


@cache
def _load_once() -> None:
    before = os.environ.get(_CACHE)
    with tempfile.TemporaryDirectory() as folder:
        os.environ[_CACHE] = folder
        try:
            import_module("ezdxf")
        finally:
            os.environ.pop(_CACHE, None)
            if before is not None:
                os.environ[_CACHE] = before


def template_dxf(flat: Flat) -> str:
    """Return the DXF text.

    Curves are polylines of their points, and texts are full size.
    """
    load_library()
    from ezdxf import units
    from ezdxf.document import Drawing
    from ezdxf.enums import TextEntityAlignment

    document = Drawing.new("R2010")
    document.units = units.MM
    document.header["$MEASUREMENT"] = 1
    for layer in (*LAYERS, "text"):
        document.layers.add(layer, color=_COLOURS[layer])
    document.linetypes.add("DASHED", [6.0, 4.0, -2.0])
    space = document.modelspace()
    for stroke in flat.strokes:
        dashed = {"linetype": "DASHED"} if stroke.dashed else {}
        space.add_lwpolyline(stroke.points, dxfattribs={"layer": stroke.layer, **dashed})
    align = {"start": TextEntityAlignment.LEFT, "middle": TextEntityAlignment.CENTER}
    for label in flat.labels:
        text = space.add_text(
            label.text.replace("°", "%%d"), height=label.size_mm, dxfattribs={"layer": label.layer}
        )
        text.set_placement(label.at, align=align[label.anchor])
    out = io.StringIO()
    document.write(out)
    return out.getvalue()
