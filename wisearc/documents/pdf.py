"""HTML as PDF by WeasyPrint: tagged (PDF/UA-1), with embedded fonts, from files of this machine."""

from __future__ import annotations

import logging
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Any

from ..core.errors import WiseArcError
from .svg_text import draw_strings_at_once

_PACKAGE = Path(__file__).resolve().parents[1]
FONTS = _PACKAGE / "web" / "static" / "vendor" / "fonts"
STYLES = Path(__file__).with_name("document.css")
VARIANT = "pdf/ua-1"
# Photographs are printed at this resolution, per inch, and with this quality.
PHOTOGRAPH_DPI, PHOTOGRAPH_QUALITY = 200, 82
DEBIAN_PACKAGES = "libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"


class NoPdf(WiseArcError):
    """The libraries for PDF are missing on this machine."""

    def __init__(self) -> None:
        """Create the error."""
        super().__init__(
            "PDF needs libraries that this computer does not have. On Debian, install them as root:"
            f" apt-get install {DEBIAN_PACKAGES}. Printing from the browser works without them"
        )


def load_library() -> Any:
    """Return the PDF library. Its import takes about half a second.

    Raises:
        NoPdf: Its system libraries are missing.
    """
    try:
        import weasyprint
        from weasyprint import svg
    except (ImportError, OSError) as error:
        raise NoPdf from error
    draw_strings_at_once(svg)
    return weasyprint


# Called with the finished share of the work, 0 to 1. An exception in it ends the work.
OnShare = Callable[[float], None]


class _PageCounter(logging.Handler):
    """Reads the progress of the PDF library. A page is half done when it is laid out."""

    def __init__(self, on_share: OnShare, pages: int) -> None:
        super().__init__(logging.INFO)
        self._on_share, self._pages = on_share, pages

    def emit(self, record: logging.LogRecord) -> None:
        """Report a page that is laid out."""
        if isinstance(record.args, tuple) and record.args and isinstance(record.args[0], int):
            self._on_share(0.5 * min(1.0, record.args[0] / self._pages))


class _DrawingErrors(logging.Handler):
    """Raises what stopped a drawing. The PDF library only logs it and leaves out the rest.

    Among the errors is the interrupt of the user.
    """

    def __init__(self) -> None:
        super().__init__(logging.ERROR)

    def emit(self, record: logging.LogRecord) -> None:
        """Raise the error, if it is of a drawing."""
        error = sys.exc_info()[1]
        if record.funcName == "draw" and error is not None:
            raise error


@contextmanager
def _hear_drawing_errors() -> Iterator[None]:
    logger, handler = logging.getLogger("weasyprint"), _DrawingErrors()
    logger.addHandler(handler)
    try:
        yield
    finally:
        logger.removeHandler(handler)


@contextmanager
def _watch_layout(on_share: OnShare, pages: int) -> Iterator[None]:
    logger, counter = logging.getLogger("weasyprint.progress"), _PageCounter(on_share, pages)
    level = logger.level
    logger.addHandler(counter)
    logger.setLevel(logging.INFO)
    try:
        yield
    finally:
        logger.removeHandler(counter)
        logger.setLevel(level)


def write_pdf(
    html: str, folder: Path | None = None, on_share: OnShare = lambda share: None, pages: int = 1
) -> bytes:
    """Return a document as PDF.

    Args:
        html: The complete page.
        folder: The folder of photographs, or None.
        on_share: Called with the progress, several times a second.
        pages: Expected number of pages.

    Raises:
        NoPdf: The libraries are missing.
    """
    weasyprint = load_library()
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher

    allowed = [place.resolve() for place in (FONTS, folder) if place is not None]

    class LocalFiles(URLFetcher):  # type: ignore[misc]
        """Fetches data in the page, fonts and photographs. Everything else is refused."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            """Return the contents of an address.

            Args:
                url: The address.
                headers: Not used here.

            Raises:
                ValueError: The address is outside the document and the library.
            """
            if url.startswith("file://"):
                path = Path(url.removeprefix("file://")).resolve()
                if not any(path.is_relative_to(place) for place in allowed):
                    raise ValueError("a file outside the library")
            elif not url.startswith("data:"):
                raise ValueError("an address outside the document")
            return super().fetch(url, headers)

    fetcher, fonts = LocalFiles(allowed_protocols=("file", "data")), FontConfiguration()
    style = weasyprint.CSS(
        string=_build_font_faces() + STYLES.read_text(encoding="utf-8"),
        font_config=fonts,
        url_fetcher=fetcher,
    )
    page = weasyprint.HTML(string=html, base_url=None, url_fetcher=fetcher)
    options = {
        "pdf_variant": VARIANT,
        "optimize_images": True,
        "dpi": PHOTOGRAPH_DPI,
        "jpeg_quality": PHOTOGRAPH_QUALITY,
    }
    with _hear_drawing_errors():
        with _watch_layout(on_share, pages):
            document = page.render(stylesheets=[style], font_config=fonts, **options)
        count = len(document.pages)
        for i, page_box in enumerate(document.pages):
            report = partial(on_share, 0.5 + 0.5 * i / count)
            page_box.paint = _report_first(page_box.paint, report)
        data: bytes = document.write_pdf(**options)
    return data


def _report_first(paint: Callable[..., None], report: Callable[[], None]) -> Callable[..., None]:
    """Return a page's `paint` that reports before it paints."""

    def paint_reported(*arguments: Any, **more: Any) -> None:
        report()
        paint(*arguments, **more)

    return paint_reported


def _build_font_faces() -> str:
    faces = (
        ("Atkinson Hyperlegible Next", "atkinson-next.woff2"),
        ("Symbols", "symbols.woff2"),
    )
    return "".join(
        f'@font-face {{ font-family: "{name}"; src: url("{(FONTS / file).as_uri()}");'
        " font-weight: 200 800; }\n"
        for name, file in faces
    )
