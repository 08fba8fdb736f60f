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
import re
import shutil
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path

import wisearc
from wisearc.core import catalogue
from wisearc.core.arc_log.arc_log import ArcLog, Stretch
from wisearc.core.jobs.job import Seam, Times
from wisearc.core.joint.joint import Joint, Member
from wisearc.core.joint.section import HeatProperties, Section, Side
from wisearc.core.photograph.measurement import (
    CardInPhoto,
    MeasuredBead,
    Measurement,
    TintBand,
    Uncertainty,
)
from wisearc.core.plan.pins import PINS
from wisearc.core.plan.plan import list_declared_figures
from wisearc.core.plan.preparation.stops import PausePoint
from wisearc.core.plan.shielding.back import Purge
from wisearc.core.plan.torch.owned import BuildPart
from wisearc.core.plan.torch.sectors import Sector
from wisearc.core.run import verification
from wisearc.core.run.inspection import Inspection
from wisearc.core.run.run import ARC_FIGURES, PART_TYPES, Excursion
from wisearc.core.run.run import Purge as RunPurge
from wisearc.core.schema.entries import read_entries
from wisearc.core.schema.figures import list_figures
from wisearc.core.shop.shop import LISTS, PulseRange
from wisearc.formats.schema import NAMES

FIGURES = "## Figures with a unit"
# The endings of a key, the longer first.
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
        "tack_s": "Tacks before the welds",
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
        "bow_mm": "Bow of an outside corner, from and to",
        "pull_deg": "Angle that a fillet pulls",
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
CORE = Path(wisearc.__file__).parent / "core"
# The levels of the names that make a caution. The last two are variables of the source with one of
# two classes.
CAUTION_LEVELS = {
    "Stop": {"stop"},
    "Care": {"caution"},
    "Note": {"note"},
    "grave": {"stop", "caution"},
    "level": {"caution", "note"},
}
SCHEMAS = Path(wisearc.__file__).parent / "formats" / "schemas"


def write_sources() -> None:
    """Write every cited work and every estimate, once, by key."""
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
    """Yield every declared key, its place in a file, and its label."""
    for d in list_declared_figures():
        yield d.key, f"plan, `{d.choice.part}`", d.figure.label
    for of, where in (
        (Section, "plan, `section`"),
        (Side, "plan, a side of the section"),
        (HeatProperties, "plan, the section's heat"),
        (Purge, "plan, the purge"),
        (Sector, "plan, a sector of the torch"),
        (PausePoint, "plan, a pause"),
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
    from tools.schemas_heat import heat_schema
    from tools.schemas_practice import practice_schema, track_schema

    heat, practice = heat_schema()["properties"], practice_schema()["properties"]
    for rows, where in (
        (heat, "heat"),
        (heat["arc"]["properties"], "heat, `arc`"),
        (heat["pool"]["properties"], "heat, `pool`"),
        (heat["probes"]["items"]["properties"], "heat, a probe"),
        (track_schema()["properties"], "track"),
        (practice, "practice"),
        (practice["target"]["properties"], "practice, `target`"),
        (practice["slips"]["items"]["properties"], "practice, a slip"),
    ):
        yield from (
            (key, where, row.get("description", "Places along the seam"))
            for key, row in rows.items()
            if unit_by_key(key)
        )
    yield from ((key, "joint, `pins`", pin.label) for key, pin in PINS.items())
    for of, where in (
        (Measurement, "measure"),
        (CardInPhoto, "measure, `card`"),
        (MeasuredBead, "measure, `bead`"),
        (TintBand, "measure, `tints`"),
        (Uncertainty, "measure, `uncertainty`"),
    ):
        yield from ((key, where, e.label) for key, e in read_entries(of).items() if e.label)
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
    """Return the unit at the end of a key, or ""."""
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


def list_caution_codes(folders: Iterable[str]) -> dict[str, set[str]]:
    """Return the levels of each caution code in the source.

    Args:
        folders: The folders of the core, such as "plan".
    """
    codes: dict[str, set[str]] = {}
    for folder in folders:
        for path in sorted((CORE / folder).rglob("*.py")):
            for call in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                match call:
                    case ast.Call(ast.Name(name), [ast.Constant(str(code)), _, *_]):
                        if name in CAUTION_LEVELS:
                            codes.setdefault(code, set()).update(CAUTION_LEVELS[name])
    return codes


def render_caution_codes() -> str:
    """Return docs/reference/caution-codes.md: every code with its levels."""
    codes = list_caution_codes(path.name for path in CORE.iterdir() if path.is_dir())
    rows = [
        "# Caution codes",
        "",
        "A caution has a stable code for programs. Made by `tools/documents.py cautions`.",
        "",
        "| code | level |",
        "|---|---|",
    ]
    rows += [
        f"| `{code}` | {', '.join(sorted(levels))} |" for code, levels in sorted(codes.items())
    ]
    return "\n".join([*rows, ""])


def write_caution_codes() -> None:
    """Write every caution code with its levels."""
    path = DOCS / "reference" / "caution-codes.md"
    path.write_text(render_caution_codes(), encoding="utf-8")


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
    """Write the schemas of the open formats, from their declarations."""
    sys.path.insert(0, str(DOCS.parent))
    from tools.schemas import schema_text

    for name in NAMES:
        (SCHEMAS / f"{name}.schema.json").write_text(schema_text(name), encoding="utf-8")


def write_screenshots() -> None:
    """Write the pictures, then the guide, which ships copies of them."""
    from tools import screenshots

    screenshots.write_screenshots()
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
