"""Write the pictures of docs/screenshots from the demo data, for `tools/documents.py`."""

from __future__ import annotations

import logging
import tempfile
import threading
import time
from itertools import islice
from pathlib import Path
from typing import Any
from urllib.parse import quote

from wisearc.web.context import get_context

SCREENSHOTS = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
CORNER = (
    "/plan?joint=outside-corner&a.metal=304L&a.form=sheet&a.thickness=16+ga&length=380+mm"
    "&service=wet"
)
TEE = (
    "/plan?joint=tee&a.metal=304L&a.form=sheet&a.thickness=1.5+mm&b.metal=mild-steel&b.form=sheet"
    "&b.thickness=1.5+mm&length=120+mm&finish=sound"
)
FLANGE = (
    "joint=tube-plate&a.metal=316L&a.form=tube&a.thickness=1.5+mm&a.diameter=51+mm&"
    "b.metal=316L&b.form=flange&b.thickness=4+mm&title=Mast+foot+to+flange&length=all-round&"
    "service=wet"
)
STOPPED = TEE + "&filler=ER70S-2&back=open&service=wet"
# Name: (address, width, height, dark, units, preparation).
SHOTS = {
    "plan": (CORNER, 1280, 800, False, "mm", ""),
    "job": ("/jobs/1?at=b1", 1280, 900, False, "mm", ""),
    "job-bench": ("/jobs/1/bench", 1280, 800, False, "mm", ""),
    "weld": ("", 1280, 800, True, "mm", ""),
    "record-run": ("/weld/1/write", 1280, 1000, False, "mm", ""),
    "plan-stop": (STOPPED, 1280, 800, False, "mm", ""),
    "plan-phone": (CORNER, 390, 844, False, "mm", ""),
    "front": ("/", 1280, 800, False, "mm", ""),
    "photographs": ("/inspect/P-0001/A/1#photographs", 1280, 800, False, "mm", ""),
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
    "practice": ("/learn/seam?lesson=taper", 1280, 900, False, "mm", ""),
    "purge": ("/set-up/purge?what=kept:P-0003/A", 1280, 800, False, "mm", ""),
    "heat": ("/heat/?link=" + quote(CORNER.partition("?")[2], safe=""), 1280, 800, True, "in", ""),
    "inspect": ("/inspect/P-0003/A/22", 1280, 800, False, "mm", ""),
}


def _purge_under_way(app: Any) -> str:
    """Start a purge with a simulated meter, half a minute old, and return its page."""
    from wisearc.forms.purge import read_ask
    from wisearc.services.procedures import book, procedures
    from wisearc.services.purge import purge_run
    from wisearc.services.purge.oxygen import readings_csv
    from wisearc.simulators.oxygen_meter import Behind, Meter, simulate_readings

    progress_mm, plan = 32.0, procedures.get_plan(book.find("P-0003", "A"))
    said = list(islice(simulate_readings(Behind(volume_l=0.54, flow_l_min=6, mixing=0.8)), 600))
    began = time.time() - progress_mm
    # It continues from its present state.
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
    file.write_text(readings_csv([one for one in said if one[0] <= progress_mm]), encoding="ascii")
    return f"/set-up/purge/{number}"


def _run_under_way(app: Any) -> str:
    """Return the address of a run during the seam.

    Its events, the trace of its power source, and a simulated source that continues.
    """
    from wisearc.core.shop.shop import ASSUMED
    from wisearc.services.inventory.shop import load_shop
    from wisearc.services.procedures import book, procedures
    from wisearc.services.weld_session import session_messages, weld_session
    from wisearc.simulators.line import Line
    from wisearc.simulators.power_source import Seam, simulate_rows

    progress_mm, what = 24.0, "kept:P-0001/B"
    plan, now = procedures.get_plan(book.find("P-0001", "B")), time.time()
    began, pulse = now - progress_mm - 30, plan.pulse
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
        {"id": f"picture-{i:03}", "at": now - progress_mm + at, "step": step, "key": key}
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
        session_messages.read_sent(sent), plan, plan.title.text(), load_shop() or ASSUMED
    )
    line = Line(
        lambda: (
            {**r, "time_s": r["time_s"] - (time.time() - now + progress_mm)}
            for r in said
            if r["time_s"] > time.time() - now + progress_mm
        )
    )
    threading.Thread(target=line.serve, daemon=True).start()
    weld_session.connect(row, str(line.port))
    file = get_context(app).sources.file(row.id, row.began)
    file.parent.mkdir()
    shift = now - progress_mm - row.began
    told = (
        f"{r['time_s'] + shift:.3f},{r['current_a']:g},{r['voltage_v']:g},{r['gas']:g}"
        for r in said
        if r["time_s"] <= progress_mm
    )
    file.write_text("time_s,current_a,voltage_v,gas\n" + "\n".join(told) + "\n", encoding="ascii")
    return f"/weld/at?what={what}"


def _weld_seam(page: Any) -> None:
    """Weld a virtual seam of 25 mm with the mouse, a little too slowly, until it is judged."""
    while "wait for the pool" not in page.inner_text("[data-hint]"):
        page.wait_for_timeout(100)
    box = page.locator("[data-sheet]").bounding_box()
    scale = min((box["width"] - 8) / 33, 16)
    left, middle = box["x"] + (box["width"] - 25 * scale) / 2, box["y"] + box["height"] / 2
    page.mouse.move(left + 1.8 * scale, middle)
    page.mouse.down()
    page.wait_for_timeout(1300)
    began = time.monotonic()
    while (at_mm := 1.8 + 2.7 * (time.monotonic() - began)) < 23.2:
        page.mouse.move(left + at_mm * scale, middle)
        page.wait_for_timeout(15)
    page.mouse.up()
    while page.locator("[data-judged]").is_hidden():
        page.wait_for_timeout(200)


def write_screenshots() -> None:
    """Write one picture of each main view, from the demo data."""
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
        # A folder as in a shop, not that of this machine.
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
            # A page with repeated requests is never idle.
            if name in ("purge", "job", "weld", "heat"):
                page.wait_for_timeout(5000 if name == "heat" else 2500)
            else:
                page.wait_for_load_state("networkidle")
            if name == "practice":
                _weld_seam(page)
            if first:
                page.click(first)
                page.wait_for_timeout(200)
            page.screenshot(path=str(SCREENSHOTS / f"{name}.png"))
            context.close()
        browser.close()
        get_context(app).sources.close()
        get_context(app).listeners.close()
        get_context(app).heat_requests.close()
        get_context(app).practice_seams.close()
        server.shutdown()
