"""Writes what is made from the product itself: docs/sources.md, the schemas, docs/screenshots/.

.venv/bin/python tools/documents.py sources
.venv/bin/python tools/documents.py schemas
.venv/bin/python tools/documents.py screenshots
"""

from __future__ import annotations

import logging
import sys
import tempfile
import threading
from pathlib import Path
from urllib.parse import quote

import wisearc
from wisearc.core import catalogue
from wisearc.formats.schema import NAMES

DOCS = Path(__file__).resolve().parent.parent / "docs"
SCHEMAS = Path(wisearc.__file__).parent / "formats" / "schemas"
CORNER = "/?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm&service=wet"
TEE = "/?joint=tee&a.metal=304L&a.form=sheet&a.thickness=1.5+mm&b.metal=mild-steel&b.form=sheet&b.thickness=1.5+mm&length=120+mm&finish=sound"
STOPPED = TEE + "&filler=ER70S-2&back=open&service=wet"
# name: (address, width, height, dark, habit, something to do first)
SHOTS = {
    "plan": (CORNER, 1280, 800, False, "mm", ""),
    "plan-word-open": (TEE, 1280, 800, False, "mm", "#word-joint"),
    "plan-answer-open": (TEE, 1280, 1000, False, "mm", "[data-line=current]"),
    "plan-stop": (STOPPED, 1280, 800, False, "mm", ""),
    "plan-dark-inches": (CORNER, 1280, 800, True, "in", ""),
    "plan-phone": (CORNER, 390, 844, False, "mm", ""),
    "plan-tablet": (TEE, 820, 1180, False, "mm", ""),
    "plan-pinned": (CORNER + "&pin.cup=6&pin.stickout_mm=11&view=seam", 1280, 1000, False, "mm", "[data-line=torch]"),
    "plan-weld-metal": (TEE + "&view=metal", 1280, 800, False, "mm", ""),
    "plan-heat": (CORNER + "&view=heat", 1280, 800, True, "mm", ""),
    "compare": (
        "/compare?left=" + quote(CORNER[2:]) + "&right=" + quote(CORNER[2:] + "&pulse=none&back=open"),
        1280,
        1100,
        False,
        "mm",
        "",
    ),
    "tables": ("/tables/", 1280, 800, False, "mm", ""),
    "schools": ("/shop/", 1280, 800, False, "mm", ""),
    "keep": ("/keep/", 1280, 800, False, "mm", ""),
    "keep-revision": ("/keep/P-0001/B", 1280, 1100, False, "mm", ""),
    "keep-print": ("/keep/P-0001/B/print", 1000, 1240, False, "mm", ""),
}


def write_sources() -> None:
    """Every cited work and every estimate, once, by key."""
    rows = ["# Sources", "", "Made from `wisearc/core/catalogue/sources.toml` by `tools/documents.py sources`.", ""]
    rows += [
        "## Works",
        "",
        "A work is shown as “from memory” until someone has held its figures against the document.",
        "",
    ]
    rows += ["| key | work | used for | checked |", "|---|---|---|---|"]
    rows += [
        f"| `{w.key}` | {w.title} | {w.used_for} | {'yes' if w.checked else 'from memory'} |"
        for w in catalogue.works().values()
    ]
    rows += [
        "",
        "## Estimates",
        "",
        "Numbers the product worked out itself, and why.",
        "",
        "| key | what | reasoning |",
        "|---|---|---|",
    ]
    rows += [f"| `{e.key}` | {e.title} | {e.reasoning.replace('|', '·')} |" for e in catalogue.estimates().values()]
    rows += [
        "",
        "## Common practice",
        "",
        "Rules of the trade that no document was named for are marked “common practice, no source”.",
        "",
    ]
    (DOCS / "sources.md").write_text("\n".join(rows), encoding="utf-8")


def write_schemas() -> None:
    """The schemas of the open formats, as their declarations make them."""
    from schemas import schema_text

    for name in NAMES:
        (SCHEMAS / f"{name}.schema.json").write_text(schema_text(name), encoding="utf-8")


def write_screenshots() -> None:
    """One picture of each main view, from the demo data."""
    from playwright.sync_api import sync_playwright
    from werkzeug.serving import make_server

    from wisearc.services.demo import fill_if_empty
    from wisearc.web import create_app

    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        app = create_app(Path(folder))
        fill_if_empty(app.extensions["store"])
        server = make_server("127.0.0.1", 0, app, threaded=True)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        root = f"http://127.0.0.1:{server.server_port}"
        browser = play.chromium.launch(
            executable_path="/usr/bin/chromium", headless=True, args=["--no-sandbox", "--disable-gpu"]
        )
        for name, (path, width, height, dark, habit, first) in SHOTS.items():
            context = browser.new_context(
                viewport={"width": width, "height": height}, color_scheme="dark" if dark else "light", locale="en-GB"
            )
            context.add_cookies([{"name": "habit", "value": habit, "url": root}])
            page = context.new_page()
            page.goto(root + path)
            page.wait_for_load_state("networkidle")
            if first:
                page.click(first)
                page.wait_for_timeout(200)
            page.screenshot(path=str(DOCS / "screenshots" / f"{name}.png"))
            context.close()
        browser.close()
        server.shutdown()


if __name__ == "__main__":
    {"sources": write_sources, "schemas": write_schemas, "screenshots": write_screenshots}[sys.argv[1]]()
