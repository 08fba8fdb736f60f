"""The forms of a job.

The text of a seam, a part or the head as a change, and the values of their fields.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from urllib.parse import parse_qsl, urlsplit

from ..core.errors import InputError
from ..core.jobs.cut_list import cut_text, hole_text, read_cuts, read_holes
from ..core.jobs.job import MAX_PART_LENGTH, SIDES, Job, Part, Seam, Times
from ..core.joint.data import joint_data
from ..core.quantities import exact
from ..core.schema import checks
from ..core.schema.documents import read_value, write_document
from ..core.schema.entries import Entry, read_entries
from ..core.schema.json_types import Json
from ..core.typed_quantities import add_typed_unit, parse_quantity
from ..services.jobs.job_changes import AddSeam, Change, RenamePart, SetHead, SetPart, SetSeam
from ..services.planning.planner import read_query

_NUMBER = re.compile(r"(P-\d{4,})(?:[ /]([A-Z]{1,3}))?", re.IGNORECASE)
MAX_LINK_LENGTH = 4000


def parse_seam(form: Mapping[str, str], job: Job, units: str, old: str = "") -> Change:
    """Parse a typed seam as a change.

    Args:
        form: The fields.
        job: The job.
        units: Unit system of numbers without unit.
        old: The key of the seam to change, or "" for a new one.

    Raises:
        InputError: An entry is wrong. The error names the field.
    """
    joins = _split_list(form.get("joins", ""))
    for part in joins:
        if old and part not in job.parts:
            checks.name("joins", part, job.parts)
    set_: dict[str, Json] = {
        "key": form.get("key", "").strip(),
        "title": " ".join(form.get("title", "").split()),
        "joins": joins,
        "side": form.get("side", "middle"),
        "face": form.get("face", "").strip() or "top",
        "seen": form.get("seen", "yes") != "no",
        "after": _split_list(form.get("after", "")),
        "hides": _split_list(form.get("hides", "")),
        "free_mm": _free(form.get("free", ""), units),
    }
    if not set_["key"]:
        raise InputError("key", "", "is missing. Give the seam a short key such as c1")
    if not joins:
        raise InputError("joins", "", "is missing. Name the parts that it joins, with commas")
    if form.get("of", "").strip():
        set_ |= parse_seam_source(form["of"], job)
    elif not old:
        raise InputError(
            "of",
            "",
            (
                "is missing. Enter a procedure number (P-0003), the key of another seam, or "
                "the address of a joint in Plan"
            ),
        )
    return SetSeam(old, set_) if old else AddSeam(set_)


def parse_seam_source(text: str, job: Job) -> dict[str, Json]:
    """Parse the source of a seam: another seam, a procedure number, or the address of a joint.

    Args:
        text: The text.
        job: The job.

    Raises:
        InputError: The text is none of these.
    """
    source = checks.check_text("of", text.strip(), MAX_LINK_LENGTH)
    key = re.sub(r"^like\s+", "", source, flags=re.IGNORECASE)
    like = next((s for s in job.seams if s.key == key), None)
    if like is not None:
        return {
            "joint": joint_data(like.joint) if like.joint is not None else None,
            "procedure": like.procedure,
        }
    if match := _NUMBER.fullmatch(source):
        return {
            "procedure": match[1].upper() + (f" {match[2].upper()}" if match[2] else ""),
            "joint": None,
        }
    query = urlsplit(source).query or source
    if "=" in query:
        joint, problems = read_query(parse_qsl(query))
        if problems:
            raise InputError(
                "of", source, "is not the address of a joint. Copy the whole address from Plan"
            )
        return {"joint": joint_data(joint), "procedure": None}
    raise InputError(
        "of",
        source,
        (
            "is not known. Enter a procedure number (P-0003), the key of another seam, "
            "or the address of a joint in Plan"
        ),
    )


def format_seam_error(error: InputError) -> str:
    """Return the error text for the form of one seam or part, without its position in the file."""
    return InputError(
        re.sub(r"^(seams\[\d+\]|about\.[^.]*)\.", "", error.field), error.value, error.rule
    ).sentence


def _split_list(text: str) -> list[str]:
    return list(
        dict.fromkeys(
            part.strip()[:MAX_PART_LENGTH] for part in re.split(r"[,;\n]", text) if part.strip()
        )
    )


def _free(text: str, units: str) -> float | None:
    if not text.strip():
        return None
    mm = parse_quantity(add_typed_unit(text.strip(), "length", units), "length", "free", units)
    limits = read_entries(Seam)["free_mm"]
    return checks.check_number("free", mm, limits.low, limits.high, "mm")


def list_seam_fields(seam: Seam, units: str) -> dict[str, str]:
    """Return the form fields of a seam.

    Args:
        seam: The seam.
        units: Unit system.
    """
    return {
        "key": seam.key,
        "title": seam.called,
        "joins": ", ".join(seam.joins),
        "side": seam.side,
        "face": seam.face,
        "seen": "yes" if seam.seen else "no",
        "after": ", ".join(seam.after),
        "hides": ", ".join(seam.hides),
        "free": "" if seam.free_mm is None else exact(seam.free_mm).text(units),
        "of": "",
    }


def list_sides() -> Mapping[str, str]:
    """Return the possible sides of a seam with their labels."""
    return SIDES


def parse_part(form: Mapping[str, str], name: str, units: str) -> list[Change]:
    """Parse a typed part as changes: note, cut list and holes, then its name.

    Args:
        form: The fields.
        name: The name of the part.
        units: Unit system of numbers without unit.

    Raises:
        InputError: An entry is wrong. The error names the field.
    """
    set_: dict[str, Json] = {
        "note": " ".join(form.get("note", "").split()),
        "cuts": [write_document(cut) for cut in read_cuts(form.get("cuts", ""), units)],
        "holes": [write_document(hole) for hole in read_holes(form.get("holes", ""), units)],
    }
    if any(form.get(key, "").strip() for key in AT):
        set_["at"] = parse_place(form)
    changes: list[Change] = [SetPart(name, set_)]
    to = form.get("to", "").strip()
    if to and to != name:
        changes.append(RenamePart(name, to))
    return changes


AT = ("left", "top", "width", "height")


def parse_place(form: Mapping[str, str]) -> list[Json]:
    """Parse the rectangle of a part, typed or dragged, limited to the drawing.

    Raises:
        InputError: It is wrong.
    """
    values = [parse_quantity(form.get(key, ""), "plain", key) for key in AT]
    wide, high = (max(2.0, min(100.0, v)) for v in values[2:])
    left, top = max(0.0, min(100 - wide, values[0])), max(0.0, min(100 - high, values[1]))
    return [round(v, 2) for v in (left, top, wide, high)]


def list_part_fields(part: Part | None, units: str) -> dict[str, str]:
    """Return the form fields of a part.

    Args:
        part: The part, or None.
        units: Unit system.
    """
    known = part or Part()
    at = dict(zip(AT, (f"{v:g}" for v in known.at), strict=True)) if known.at else {}
    return {
        "note": known.note,
        "cuts": "\n".join(cut_text(c, units) for c in known.cuts),
        "holes": "\n".join(hole_text(h, units) for h in known.holes),
        **at,
    }


def parse_head(form: Mapping[str, str]) -> Change:
    """Parse the title, the quantity and the times of a form into a change.

    Raises:
        InputError: An entry is not allowed. The error names the field of the form.
    """
    title = " ".join(form.get("title", "").split())
    if not title:
        raise InputError("title", "", "is missing. Enter a name for the job")
    head: dict[str, Json] = {
        "title": title,
        "quantity": parse_quantity(form.get("quantity", "1") or "1", "plain", "quantity"),
        "times": {
            key: _parse_seconds(form, key, entry) for key, entry in read_entries(Times).items()
        },
    }
    if form.get("balance_s", "").strip():
        head["balance_s"] = _parse_seconds(form, "balance_s", read_entries(Job)["balance_s"])
    return SetHead(head)


def _parse_seconds(form: Mapping[str, str], key: str, declared: Entry) -> Json:
    typed = form.get(key, "").strip()
    if not typed:
        return None
    seconds: float = read_value(declared, parse_quantity(typed, "seconds", key), key)
    return seconds


def list_head_fields(job: Job) -> list[tuple[str, str, str]]:
    """Return the times of the head as fields: key, label, value."""
    rows = [
        (key, declared.label, f"{getattr(job.times, key):g}")
        for key, declared in read_entries(Times).items()
    ]
    return [*rows, ("balance_s", "One step of lead on one side", f"{job.balance_s:g}")]
