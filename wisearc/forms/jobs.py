"""What is typed of a job: a seam's sentence, a part, the head, each as a change; and what stands in
their fields.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from urllib.parse import parse_qsl, urlsplit

from ..core.errors import InputError
from ..core.jobs.cut_list import cut_text, hole_text, read_cuts, read_holes
from ..core.jobs.job import MAX_PART_LENGTH, SIDES, Job, Part, Seam, Times
from ..core.joint.data import joint_data
from ..core.quantities import add_typed_unit, exact, parse_quantity
from ..core.schema import checks
from ..core.schema.documents import read_value, write_document
from ..core.schema.entries import Entry, read_entries
from ..core.schema.json_types import Json
from ..services.jobs.job_changes import AddSeam, Change, RenamePart, SetHead, SetPart, SetSeam
from ..services.planning.planning import read_query

_NUMBER = re.compile(r"(P-\d{4,})(?:[ /]([A-Z]{1,3}))?", re.IGNORECASE)
MAX_LINK_LENGTH = 4000


def parse_seam(form: Mapping[str, str], job: Job, habit: str, old: str = "") -> Change:
    """A seam as it was typed, as a change. Parameters: old, the key of the seam that is changed; ""
    for a new one. Raises InputError naming the form's field.
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
        "free_mm": _free(form.get("free", ""), habit),
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
    """What a seam is welded by, as people say it: like another seam, by a procedure's number, or a
    joint's address. Raises InputError.
    """
    said = checks.check_text("of", text.strip(), MAX_LINK_LENGTH)
    key = re.sub(r"^like\s+", "", said, flags=re.IGNORECASE)
    like = next((s for s in job.seams if s.key == key), None)
    if like is not None:
        return {
            "joint": joint_data(like.joint) if like.joint is not None else None,
            "procedure": like.procedure,
        }
    if match := _NUMBER.fullmatch(said):
        return {
            "procedure": match[1].upper() + (f" {match[2].upper()}" if match[2] else ""),
            "joint": None,
        }
    query = urlsplit(said).query or said
    if "=" in query:
        joint, problems = read_query(parse_qsl(query))
        if problems:
            raise InputError(
                "of", said, "is not the address of a joint. Copy the whole address from Plan"
            )
        return {"joint": joint_data(joint), "procedure": None}
    raise InputError(
        "of",
        said,
        (
            "is not known. Enter a procedure number (P-0003), the key of another seam, "
            "or the address of a joint in Plan"
        ),
    )


def format_seam_error(error: InputError) -> str:
    """What a refusal says on the form of one seam or part, where its place in the whole file means
    nothing.
    """
    return InputError(
        re.sub(r"^(seams\[\d+\]|about\.[^.]*)\.", "", error.field), error.value, error.rule
    ).sentence


def _split_list(text: str) -> list[str]:
    return list(
        dict.fromkeys(
            one.strip()[:MAX_PART_LENGTH] for one in re.split(r"[,;\n]", text) if one.strip()
        )
    )


def _free(text: str, habit: str) -> float | None:
    if not text.strip():
        return None
    mm = parse_quantity(add_typed_unit(text.strip(), "length", habit), "length", "free", habit)
    limits = read_entries(Seam)["free_mm"]
    return checks.check_number("free", mm, limits.low, limits.high, "mm")


def list_seam_fields(seam: Seam, habit: str) -> dict[str, str]:
    """A seam as its form's fields."""
    return {
        "key": seam.key,
        "title": seam.called,
        "joins": ", ".join(seam.joins),
        "side": seam.side,
        "face": seam.face,
        "seen": "yes" if seam.seen else "no",
        "after": ", ".join(seam.after),
        "hides": ", ".join(seam.hides),
        "free": "" if seam.free_mm is None else exact(seam.free_mm).text(habit),
        "of": "",
    }


def list_sides() -> Mapping[str, str]:
    """The sides a seam can lie on, with their words."""
    return SIDES


def parse_part(form: Mapping[str, str], name: str, habit: str) -> list[Change]:
    """A part as it was typed, as changes: its note, cut list and holes, then its name. Raises
    InputError naming the form's field.
    """
    set_: dict[str, Json] = {
        "note": " ".join(form.get("note", "").split()),
        "cuts": [write_document(cut) for cut in read_cuts(form.get("cuts", ""), habit)],
        "holes": [write_document(hole) for hole in read_holes(form.get("holes", ""), habit)],
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
    """Where a part lies, as it was typed or dragged, held within the field. Raises InputError."""
    values = [parse_quantity(form.get(key, ""), "plain", key) for key in AT]
    wide, high = (max(2.0, min(100.0, v)) for v in values[2:])
    left, top = max(0.0, min(100 - wide, values[0])), max(0.0, min(100 - high, values[1]))
    return [round(v, 2) for v in (left, top, wide, high)]


def list_part_fields(part: Part | None, habit: str) -> dict[str, str]:
    """A part as its form's fields."""
    known = part or Part()
    at = dict(zip(AT, (f"{v:g}" for v in known.at), strict=True)) if known.at else {}
    return {
        "note": known.note,
        "cuts": "\n".join(cut_text(c, habit) for c in known.cuts),
        "holes": "\n".join(hole_text(h, habit) for h in known.holes),
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
    found: dict[str, Json] = {
        "title": title,
        "quantity": parse_quantity(form.get("quantity", "1") or "1", "plain", "quantity"),
        "times": {key: _parse_seconds(form, key, one) for key, one in read_entries(Times).items()},
    }
    if form.get("balance_s", "").strip():
        found["balance_s"] = _parse_seconds(form, "balance_s", read_entries(Job)["balance_s"])
    return SetHead(found)


def _parse_seconds(form: Mapping[str, str], key: str, declared: Entry) -> Json:
    typed = form.get(key, "").strip()
    if not typed:
        return None
    found: float = read_value(declared, parse_quantity(typed, "seconds", key), key)
    return found


def list_head_fields(job: Job) -> list[tuple[str, str, str]]:
    """The head's times as fields: key, label, what stands there."""
    rows = [
        (key, declared.label, f"{getattr(job.times, key):g}")
        for key, declared in read_entries(Times).items()
    ]
    return [*rows, ("balance_s", "One step of lead on one side", f"{job.balance_s:g}")]
