"""The seams of a job as CSV (RFC 4180) and back, and lists of a job as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from urllib.parse import parse_qsl, urlencode

from ...core.errors import InputError
from ...core.jobs.job import MAX_SEAMS, Job
from ...core.jobs.job_data import make_job
from ...core.jobs.materials import Item
from ...core.joint.data import joint_data
from ...core.schema.json_types import Json
from ..link import link_query, read_link
from ..table import check_headings, read_table

COLUMNS = (
    "key",
    "title",
    "joint",
    "procedure",
    "joins",
    "side",
    "face",
    "seen",
    "after",
    "hides",
    "free_mm",
)
BUY_COLUMNS = ("list", "item", "need", "have", "short", "unit")
LISTS = ("joins", "after", "hides")
APART = "; "


def seams_csv(job: Job) -> str:
    """Return the seams of a job; a joint as its link, lists with semicolons."""
    rows = []
    for s in job.seams:
        link = urlencode(link_query(joint_data(s.joint))) if s.joint is not None else ""
        lists = [APART.join(getattr(s, name)) for name in LISTS]
        free = "" if s.free_mm is None else f"{s.free_mm:g}"
        rows.append(
            (
                s.key,
                s.called,
                link,
                s.procedure or "",
                lists[0],
                s.side,
                s.face,
                "yes" if s.seen else "no",
                lists[1],
                lists[2],
                free,
            )
        )
    return write_table(COLUMNS, rows)


def buy_csv(items: Iterable[Item], units: str = "mm") -> str:
    """Return the shopping list.

    Args:
        items: The items to buy.
        units: Unit system.
    """
    rows = [
        (
            i.list,
            i.words.text(units),
            f"{i.need:g}",
            "" if i.have is None else f"{round(i.have, 1):g}",
            f"{round(i.short, 1):g}",
            i.unit,
        )
        for i in items
    ]
    return write_table(BUY_COLUMNS, rows)


def write_table(columns: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """Return a table as CSV.

    A cell that a spreadsheet would interpret as a formula is marked as text.

    Args:
        columns: Headings.
        rows: Rows.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(columns)
    writer.writerows(
        [[f"'{cell}" if cell[:1] in ("=", "+", "-", "@") else cell for cell in row] for row in rows]
    )
    return out.getvalue()


def read_seams(text: str, title: str = "") -> Job:
    """Parse a job from a CSV of seams.

    The seams define its parts.

    Args:
        text: The CSV text.
        title: Title of the job.

    Raises:
        InputError: A line is wrong. The error names it.
    """
    table = read_table(text, ",\t", MAX_SEAMS, _build_limit_error)
    headings = table.headings
    check_headings(headings, COLUMNS, "seams of a job")
    if "key" not in headings or "joins" not in headings:
        raise InputError("heading", ", ".join(headings), "must contain key and joins")
    seams = [
        _read_seam(
            line,
            dict(zip(headings, (cell.strip().removeprefix("'") for cell in row), strict=False)),
        )
        for line, row in table.lines
    ]
    return make_job({"title": title, "seams": seams})


def _build_limit_error(lines: str) -> InputError:
    return InputError(
        "file", lines, f"must be at most {MAX_SEAMS} seams. Split the file into several jobs"
    )


def _read_seam(line: int, row: dict[str, str]) -> dict[str, Json]:
    fields: dict[str, Json] = {
        name: [part.strip() for part in row.get(name, "").split(";") if part.strip()]
        for name in LISTS
    }
    fields |= {
        name: row[name] for name in ("key", "title", "side", "face", "procedure") if row.get(name)
    }
    if row.get("seen", "").lower() not in ("", "yes", "no"):
        raise InputError(f"line {line}, seen", row["seen"], "must be yes or no")
    fields["seen"] = row.get("seen", "").lower() != "no"
    if row.get("free_mm"):
        try:
            fields["free_mm"] = float(row["free_mm"])
        except ValueError as error:
            raise InputError(
                f"line {line}, free_mm", row["free_mm"], "must be a number in mm, without its unit"
            ) from error
    if row.get("joint"):
        joint, problems = read_link(parse_qsl(row["joint"]))
        if problems:
            raise InputError(
                f"line {line}, joint",
                row["joint"],
                "is not the link of a joint. Copy it from the address of Plan",
            )
        fields["joint"] = joint_data(joint)
    return fields
