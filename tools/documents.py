"""Write the documents that are made from the product.

.venv/bin/python tools/documents.py sources      docs/reference/sources.md
.venv/bin/python tools/documents.py symbols      the figures in docs/reference/symbols.md
.venv/bin/python tools/documents.py glossary     docs/reference/glossary.md
.venv/bin/python tools/documents.py cautions     docs/reference/caution-codes.md
.venv/bin/python tools/documents.py schemas      the shipped JSON Schemas
.venv/bin/python tools/documents.py guide        the guide inside the product, from docs/guide
.venv/bin/python tools/documents.py screenshots  docs/screenshots, and the guide
"""

from __future__ import annotations

import ast
import logging
import re
import shutil
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from typing import Any
from urllib.parse import quote

import wisearc
from wisearc.core import catalogue
from wisearc.core.arc_log.arc_log import ArcLog, Stretch
from wisearc.core.jobs.job import Seam, Times
from wisearc.core.joint.joint import Joint, Member
from wisearc.core.joint.section import HeatProperties, Section, Side
from wisearc.core.plan.pins import PINS
from wisearc.core.plan.plan import list_declared_figures
from wisearc.core.plan.shielding.back import Purge
from wisearc.core.plan.torch.owned import BuildPart
from wisearc.core.run import verification
from wisearc.core.run.inspection import Inspection
from wisearc.core.run.run import ARC_FIGURES, PART_TYPES, Excursion
from wisearc.core.run.run import Purge as RunPurge
from wisearc.core.schema.entries import read_entries
from wisearc.core.schema.figures import list_figures
from wisearc.core.shop.shop import LISTS, PulseRange
from wisearc.formats.schema import NAMES
from wisearc.web.context import get_context

FIGURES = "## Figures with a unit"
# what a key ends in, the longer first
UNITS = {
    "rho_c": "J/mm³·K",
    "c_part": "J/kg·K",
    "_eq": "wt%",
    "_kj_mm": "kJ/mm",
    "_l_min": "L/min",
    "_mm_s": "mm/s",
    "_m_s": "m/s",
    "_w_mm2k": "W/mm²·K",
    "_mm2": "mm²",
    "_mm": "mm",
    "_pct": "%",
    "_deg": "°",
    "_pps": "1/s",
    "_cfh": "CFH",
    "_a": "A",
    "_s": "s",
    "_v": "V",
    "_c": "°C",
    "_l": "L",
    "_g": "g",
    "_kn": "kN",
    "_kj": "kJ",
    "_mpa": "MPa",
}
JOB_KEYS = {
    "job": {
        "balance_s": "Lead on one side",
        "length_mm": "Length of a cut",
        "width_mm": "Width of a cut",
        "diameter_mm": "Hole",
        "x_mm": "Hole from the left",
        "y_mm": "Hole from the top",
    },
    "job-plan": {
        "cost_s": "Cost of the sequence",
        "arc_s": "Arc",
        "dial_s": "Changing the machine setting",
        "torch_s": "Changing the torch",
        "clamp_s": "Clamping",
        "wait_s": "Waiting for the interpass limit",
        "piece_s": "Another piece",
        "bound_s": "Lower limit of the cost",
        "start_s": "Start of a step",
        "end_s": "End of a step",
        "argon_l": "Argon",
        "holds_l": "Content of a cylinder",
        "used_l": "Argon used from it",
        "lacking_l": "Missing argon",
        "force_kn": "Shrinkage force of a seam, from and to",
        "stress_mpa": "Stress in the sheet, from and to",
        "buckles_mpa": "Buckling stress of the sheet",
        "free_mm": "Free sheet next to it",
        "left_kn": "Force on the left",
        "middle_kn": "Force in the middle",
        "right_kn": "Force on the right",
        "lean_kn": "Left minus right",
        "most_kn": "Maximum lead of one side",
    },
}
WHOLE = {"k": "W/mm·K", "a": "mm²/s"}
DOCS = Path(__file__).resolve().parent.parent / "docs"
GUIDE = Path(wisearc.__file__).parent / "web" / "guide"
CAUTION_LEVELS = {
    "Stop": {"stop"},
    "Care": {"caution"},
    "Note": {"note"},
    "grave": {"stop", "caution"},
    "level": {"caution", "note"},
}
SCHEMAS = Path(wisearc.__file__).parent / "formats" / "schemas"
CORNER = (
    "/?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm&service=wet"
)
TEE = (
    "/?joint=tee&a.metal=304L&a.form=sheet&a.thickness=1.5+mm&b.metal=mild-steel&b.form=sheet"
    "&b.thickness=1.5+mm&length=120+mm&finish=sound"
)
FLANGE = (
    "joint=tube-plate&a.metal=316L&a.form=tube&a.thickness=1.5+mm&a.diameter=51+mm&"
    "b.metal=316L&b.form=flange&b.thickness=4+mm&title=Mast+foot+to+flange&length=all-round&"
    "service=wet"
)
STOPPED = TEE + "&filler=ER70S-2&back=open&service=wet"
# name: (address, width, height, dark, habit, something to do first)
SHOTS = {
    "plan": (CORNER, 1280, 800, False, "mm", ""),
    "job": ("/jobs/1?at=b1", 1280, 900, False, "mm", ""),
    "job-bench": ("/jobs/1/bench", 1280, 800, False, "mm", ""),
    "weld": ("", 1280, 800, True, "mm", ""),
    "record-run": ("/weld/1/write", 1280, 1000, False, "mm", ""),
    "plan-stop": (STOPPED, 1280, 800, False, "mm", ""),
    "plan-dark-inches": (CORNER, 1280, 800, True, "in", ""),
    "plan-phone": (CORNER, 390, 844, False, "mm", ""),
    "compare": (
        "/compare?left="
        + quote(CORNER[2:])
        + "&right="
        + quote(CORNER[2:] + "&pulse=none&back=open"),
        1280,
        1100,
        False,
        "mm",
        "",
    ),
    "reference": ("/reference/", 1280, 800, False, "mm", ""),
    "procedures": ("/procedures/", 1280, 800, False, "mm", ""),
    "revision": ("/procedures/P-0004/A", 1280, 1100, False, "mm", ""),
    "procedure-sheet": ("/procedures/P-0004/A/print", 900, 1240, False, "mm", ""),
    "shop": ("/shop/", 1280, 800, False, "mm", ""),
    "set-up": (f"/set-up/plan?{FLANGE}", 1280, 800, False, "mm", ""),
    "template": (
        "/templates/?kind=cope&branch=25+mm&wall=1.2+mm&run=51+mm&angle=45&name=Stay+to+mast",
        1280,
        800,
        False,
        "mm",
        "",
    ),
    "tacks": ("/set-up/tacks?what=kept:P-0001/A", 1280, 800, False, "mm", "#line-tack-1 .set-box"),
    "purge": ("/set-up/purge?what=kept:P-0003/A", 1280, 800, False, "mm", ""),
    "inspect": ("/inspect/P-0003/A/22", 1280, 800, False, "mm", ""),
}


def write_sources() -> None:
    """Every cited work and every estimate, once, by key."""
    rows = [
        "# Sources",
        "",
        "Made from `wisearc/core/catalogue/sources.toml` by `tools/documents.py sources`.",
        "",
    ]
    rows += [
        "## Works",
        "",
        "“From memory” means that nobody has checked the figures against the document yet.",
        "",
    ]
    rows += ["| key | work | used for | checked |", "|---|---|---|---|"]
    rows += [
        f"| `{w.key}` | {w.title} | {w.used_for} | {'yes' if w.checked else 'from memory'} |"
        for w in catalogue.load_works().values()
    ]
    rows += [
        "",
        "## Estimates",
        "",
        "Values that the product calculates or assumes, with the reasoning.",
        "",
        "| key | what | reasoning |",
        "|---|---|---|",
    ]
    rows += [
        f"| `{e.key}` | {e.title} | {e.reasoning.replace('|', '·')} |"
        for e in catalogue.load_estimates().values()
    ]
    rows += [
        "",
        "## Common practice",
        "",
        ("Rules of the trade without a document have the level “common practice, no source”."),
        "",
    ]
    (DOCS / "reference" / "sources.md").write_text("\n".join(rows), encoding="utf-8")


def write_symbols() -> None:
    """Write every figure with a unit, below the symbols."""
    path = DOCS / "reference" / "symbols.md"
    by_hand = path.read_text(encoding="utf-8").partition(FIGURES)[0]
    rows = [FIGURES, "", "Made from their declarations by `tools/documents.py symbols`.", ""]
    rows += ["| key | place | figure | unit |", "|---|---|---|---|"]
    rows += [
        f"| `{key}` | {where} | {label} | {unit} |"
        for key, where, label in declared()
        if (unit := unit_by_key(key))
    ]
    path.write_text(by_hand + "\n".join([*rows, ""]), encoding="utf-8")


def declared() -> Iterator[tuple[str, str, str]]:
    """Every key that is declared, where it stands in a file, and its label."""
    for d in list_declared_figures():
        yield d.key, f"plan, `{d.choice.part}`", d.figure.label
    for of, where in (
        (Section, "plan, `section`"),
        (Side, "plan, a side of the section"),
        (HeatProperties, "plan, the section's heat"),
        (Purge, "plan, the purge"),
        (BuildPart, "plan, a part of the build"),
        (ArcLog, "arc-log"),
        (Stretch, "arc-log, a stretch"),
        (Excursion, "arc-log, `left_band`"),
    ):
        yield from ((key, where, f.label) for key, f in list_figures(of).items())
    owned = (
        (PulseRange, "shop, `pulse`"),
        *((of, f"shop, `{name}`") for name, of in LISTS.items()),
    )
    jobs = ((Seam, "job, a seam"), (Times, "job, `times`"))
    for of, where in ((Joint, "joint"), (Member, "member"), *jobs, *owned):
        for key, e in read_entries(of).items():
            yield (f"{key}_mm" if e.kind == "length" else key), where, e.label
    yield from ((key, "joint, `pins`", pin.label) for key, pin in PINS.items())
    parts = {**PART_TYPES, "purge": RunPurge, "seen": Inspection}
    yield from (
        (key, f"run, `{part}`", e.label)
        for part, of in parts.items()
        for key, e in read_entries(of).items()
        if e.label
    )
    yield from ((key, "run, `arc`", f.label) for key, f in ARC_FIGURES.items())
    yield from ((key, "revision, `bands`", label) for key, (label, _) in verification.BANDS.items())
    yield from (
        (key, where, label) for where, rows in JOB_KEYS.items() for key, label in rows.items()
    )


def unit_by_key(key: str) -> str:
    """The unit a key ends in, or "" for none."""
    return WHOLE.get(key) or next((unit for end, unit in UNITS.items() if key.endswith(end)), "")


def write_glossary() -> None:
    """Write the terms of the trade with their other names."""
    rows = [
        "# Glossary",
        "",
        "Made from `wisearc/core/catalogue/glossary.toml` by `tools/documents.py glossary`.",
        "",
        "| term | meaning | other names |",
        "|---|---|---|",
    ]
    rows += [
        f"| {t.term} | {t.text} | {', '.join(t.also)} |" for t in catalogue.load_glossary().values()
    ]
    (DOCS / "reference" / "glossary.md").write_text("\n".join([*rows, ""]), encoding="utf-8")


def write_caution_codes() -> None:
    """Write every code of a caution with its levels and the place where it appears."""
    source = Path(wisearc.__file__).parent / "core"
    found: dict[str, set[str]] = {}
    for path in sorted((source / "plan").rglob("*.py")) + sorted((source / "jobs").glob("*.py")):
        for call in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(call, ast.Call) or len(call.args) < 3:
                continue
            name = ast.unparse(call.func)
            code = call.args[0]
            if not isinstance(code, ast.Constant) or not isinstance(code.value, str):
                continue
            if name in CAUTION_LEVELS:
                found.setdefault(code.value, set()).update(CAUTION_LEVELS[name])
    rows = [
        "# Caution codes",
        "",
        "A caution has a stable code for programs. Made by `tools/documents.py cautions`.",
        "",
        "| code | level |",
        "|---|---|",
    ]
    rows += [
        f"| `{code}` | {', '.join(sorted(levels))} |" for code, levels in sorted(found.items())
    ]
    (DOCS / "reference" / "caution-codes.md").write_text("\n".join([*rows, ""]), encoding="utf-8")


def render_guide() -> dict[str, str]:
    """Return the pages of the guide inside the product by file name.

    The first line of a page is its title. Links lead to pages of the product, and pictures to the
    copies that it ships.
    """
    import mistune

    order = re.findall(r"\(([a-z-]+)\.md\)", (DOCS / "guide" / "README.md").read_text("utf-8"))
    pages = {}
    for number, key in enumerate(order, 1):
        text = (DOCS / "guide" / f"{key}.md").read_text(encoding="utf-8")
        title, _, body = text.partition("\n")
        html = str(mistune.html(body))
        html = re.sub(r'href="([a-z-]+)\.md"', r'href="/guide/\1"', html)
        html = html.replace('src="../screenshots/', 'loading="lazy" src="/guide/pictures/')
        pages[f"{number:02}-{key}.txt"] = f"{title.lstrip('# ')}\n{html}"
    return pages


def write_guide() -> None:
    """Write the guide inside the product, with the pictures that it shows."""
    pages, pictures = GUIDE / "pages", GUIDE / "pictures"
    for folder in (pages, pictures):
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
    for name, html in render_guide().items():
        (pages / name).write_text(html, encoding="utf-8")
        for picture in re.findall(r"/guide/pictures/([\w-]+\.png)", html):
            shutil.copyfile(DOCS / "screenshots" / picture, pictures / picture)


def write_schemas() -> None:
    """The schemas of the open formats, as their declarations make them."""
    sys.path.insert(0, str(DOCS.parent))
    from tools.schemas import schema_text

    for name in NAMES:
        (SCHEMAS / f"{name}.schema.json").write_text(schema_text(name), encoding="utf-8")


def _purge_under_way(app: Any) -> str:
    """A purge of the demo's stay with a simulated meter, half a minute old. Returns its page."""
    from wisearc.forms.purge import read_ask
    from wisearc.services.procedures import book, procedures
    from wisearc.services.purge import purge_run
    from wisearc.services.purge.oxygen import readings_csv
    from wisearc.simulators.oxygen_meter import Behind, Meter, simulate_readings

    so_far, plan = 32.0, procedures.get_plan(book.find("P-0003", "A"))
    said = list(islice(simulate_readings(Behind(volume_l=0.54, flow_l_min=6, mixing=0.8)), 600))
    began = time.time() - so_far
    # it goes on where it would be by then
    meter = Meter(
        lambda: iter(
            [(at - time.time() + began, ppm) for at, ppm in said if at > time.time() - began]
        )
    )
    threading.Thread(target=meter.serve, daemon=True).start()
    ask = read_ask(plan, {}, "mm")
    number = purge_run.begin("kept:P-0003/A", plan.title.text(), ask, meter.port, lambda: began)
    file = get_context(app).listeners.file(number, began)
    file.parent.mkdir()
    file.write_text(readings_csv([one for one in said if one[0] <= so_far]), encoding="ascii")
    return f"/set-up/purge/{number}"


def _run_under_way(app: Any) -> str:
    """The address of a run in mid-seam: its acts taken, its power source's trace so far, and a
    simulated source that goes on.
    """
    from wisearc.core.shop.shop import ASSUMED
    from wisearc.services.inventory.shop import load_shop
    from wisearc.services.procedures import book, procedures
    from wisearc.services.weld_session import weld_session
    from wisearc.simulators.line import Line
    from wisearc.simulators.power_source import Seam, simulate_rows

    so_far, what = 24.0, "kept:P-0001/B"
    plan, now = procedures.get_plan(book.find("P-0001", "B")), time.time()
    began, pulse = now - so_far - 30, plan.pulse
    seam = Seam(
        pulse.peak_a,
        pulse.background_a or 0.0,
        pulse.rate_pps or 0.0,
        (pulse.on_pct or 100) / 100,
        arc_s=120,
        restarts=0,
        slip=False,
    )
    said = list(simulate_rows(seam))
    acts = [("bars-on", "skip", -3.0), ("ready-1", "main", 2.0), ("pool-1", "main", 3.6)]
    keys = [
        {"id": f"picture-{i:03}", "at": now - so_far + at, "step": step, "key": key}
        for i, (step, key, at) in enumerate(acts)
    ]
    sent = {
        "what": what,
        "job": "",
        "once": "picture-run",
        "who": "K.M.",
        "device": "device-one",
        "began": began,
        "now": now,
        "acts": keys,
    }
    row = weld_session.receive_entries(
        weld_session.read_sent(sent), plan, plan.title.text(), load_shop() or ASSUMED
    )
    line = Line(
        lambda: (
            {**r, "time_s": r["time_s"] - (time.time() - now + so_far)}
            for r in said
            if r["time_s"] > time.time() - now + so_far
        )
    )
    threading.Thread(target=line.serve, daemon=True).start()
    weld_session.connect(row, str(line.port))
    file = get_context(app).sources.file(row.id, row.began)
    file.parent.mkdir()
    shift = now - so_far - row.began
    told = (
        f"{r['time_s'] + shift:.3f},{r['current_a']:g},{r['voltage_v']:g},{r['gas']:g}"
        for r in said
        if r["time_s"] <= so_far
    )
    file.write_text("time_s,current_a,voltage_v,gas\n" + "\n".join(told) + "\n", encoding="ascii")
    return f"/weld/at?what={what}"


def write_screenshots() -> None:
    """One picture of each main view, from the demo data."""
    from playwright.sync_api import sync_playwright
    from werkzeug.serving import make_server

    from wisearc.services.maintenance.demo import fill_if_empty
    from wisearc.services.runs import runs
    from wisearc.store import queries
    from wisearc.web import create_app
    from wisearc.web.gate import ADDRESSES, list_addresses

    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        app = create_app(Path(folder))
        fill_if_empty(get_context(app).store)
        server = make_server("127.0.0.1", 0, app, threaded=True)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        root = f"http://127.0.0.1:{server.server_port}"
        app.config[ADDRESSES] = list_addresses(server.server_port)
        # a folder as a shop might have it, not that of the machine the pictures are taken on
        get_context(app).tasks.folder = Path("/srv/saltmarsh/wisearc")
        browser = play.chromium.launch(
            executable_path="/usr/bin/chromium-headless-shell",
            headless=True,
            args=["--no-sandbox", "--disable-gpu"],
        )
        for name, (path, width, height, dark, habit, first) in SHOTS.items():
            if name == "keep-struck":
                run = queries.list_runs(queries.get_revision("P-0003", "A"))[0]
                runs.void_run("P-0003", "A", run.id, "R.T.", lambda: "2026-04-08T16:00:00Z")
            if name == "purge":
                path = _purge_under_way(app)
            if name == "weld":
                path = _run_under_way(app)
            context = browser.new_context(
                viewport={"width": width, "height": height},
                color_scheme="dark" if dark else "light",
                locale="en-GB",
            )
            context.add_cookies([{"name": "habit", "value": habit, "url": root}])
            page = context.new_page()
            page.goto(root + path)
            # a page that asks again and again is never idle
            (
                page.wait_for_timeout(2500)
                if name
                in (
                    "purge",
                    "job",
                    "weld",
                )
                else page.wait_for_load_state("networkidle")
            )
            if first:
                page.click(first)
                page.wait_for_timeout(200)
            page.screenshot(path=str(DOCS / "screenshots" / f"{name}.png"))
            context.close()
        browser.close()
        get_context(app).sources.close()
        get_context(app).listeners.close()
        server.shutdown()
    write_guide()


if __name__ == "__main__":
    {
        "sources": write_sources,
        "symbols": write_symbols,
        "glossary": write_glossary,
        "cautions": write_caution_codes,
        "schemas": write_schemas,
        "guide": write_guide,
        "screenshots": write_screenshots,
    }[sys.argv[1]]()
