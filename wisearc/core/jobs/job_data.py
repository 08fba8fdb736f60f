"""A job ↔ plain data, checked key by key."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ..errors import BadInput
from ..joint.data import joint_data, make_joint
from ..schema import checks
from ..schema.entries import entries
from ..schema.entry_data import checked
from .job import (
    BALANCE_S,
    LONGEST_NOTE,
    LONGEST_PART,
    LONGEST_STUFF,
    LONGEST_TITLE,
    MOST_JOINED,
    MOST_LINES,
    MOST_PARTS,
    MOST_PIECES,
    MOST_SEAMS,
    Cut,
    Hole,
    Job,
    Part,
    Seam,
    Times,
    check_precedence,
)

KEYS = (
    "title",
    "quantity",
    "parts",
    "seams",
    "times",
    "balance_s",
    "about",
    "order",
    "first",
    "last",
)
SEAM_LISTS = ("joins", "after", "hides")
SEAM_KEYS = (*(k for k in entries(Seam)), "joint", *SEAM_LISTS)
ABOUT_KEYS = ("note", "cuts", "holes", "at")
LONGEST_MM = 20_000.0


def make_job(data: Mapping[str, Any]) -> Job:
    """A job from plain data. Raises BadInput naming the key, its value and what is allowed."""
    checks.keys("job", data, KEYS)
    rows = data.get("seams", [])
    parts = _names(
        "parts",
        data["parts"] if data.get("parts") is not None else _joined(rows),
        MOST_PARTS,
        LONGEST_PART,
    )
    if isinstance(rows, list) and len(rows) > MOST_SEAMS:
        words = (
            f"are more than one job orders at once ({MOST_SEAMS}); make each sub-assembly a job of"
            " its own, and one of what joins them"
        )
        raise BadInput("seams", f"{len(rows)} seams", words)
    seams = tuple(
        _seam(f"seams[{i}]", row, parts)
        for i, row in enumerate(checks.rows("seams", rows, MOST_SEAMS))
    )
    keys = [seam.key for seam in seams]
    for i, seam in enumerate(seams):
        if keys.index(seam.key) < i:
            raise BadInput(
                f"seams[{i}].key",
                seam.key,
                f"is the key of seams[{keys.index(seam.key)}] too; give each its own",
            )
    for i, seam in enumerate(seams):
        for name in ("after", "hides"):
            for key in getattr(seam, name):
                if key not in keys:
                    checks.name(f"seams[{i}].{name}", key, keys)
    times = checked(Times, checks.mapping("times", _given(data, "times", {})), "times")
    quantity = checks.number("quantity", data.get("quantity", 1), 1, MOST_PIECES)
    if not quantity.is_integer():
        raise BadInput("quantity", quantity, "must be a whole number of pieces")
    job = Job(
        title=checks.line("title", data.get("title", ""), LONGEST_TITLE),
        quantity=int(quantity),
        parts=parts,
        seams=seams,
        times=Times(**times),
        balance_s=checks.number("balance_s", data.get("balance_s", BALANCE_S), 0, 7200, "s"),
        about=_about(_given(data, "about", {}), parts),
        order=_order(_given(data, "order", []), keys),
        first=_pinned("first", data, keys),
        last=_pinned("last", data, keys),
    )
    check_precedence(job)
    return job


def _given(data: Mapping[str, Any], key: str, usual: Any) -> Any:
    """What stands at a key, the usual where nothing does."""
    value = data.get(key)
    return usual if value is None else value


def _joined(rows: Any) -> list[Any]:
    """The parts that seams name, where a file lists none."""
    joins = (
        [row.get("joins") for row in rows if isinstance(row, Mapping)]
        if isinstance(rows, list)
        else []
    )
    return list(
        dict.fromkeys(
            part
            for parts in joins
            if isinstance(parts, list)
            for part in parts
            if isinstance(part, str)
        )
    )


def _pinned(name: str, data: Mapping[str, Any], keys: list[str]) -> str:
    return "" if data.get(name) in (None, "") else checks.name(name, data[name], keys)


def _order(rows: Any, keys: list[str]) -> tuple[str, ...]:
    found = [checks.name("order", key, keys) for key in checks.rows("order", rows, MOST_SEAMS)]
    if found and sorted(found) != sorted(keys):
        raise BadInput("order", ",".join(found), "must name every seam once")
    return tuple(found)


def _names(where: str, value: Any, most: int, longest: int) -> tuple[str, ...]:
    found = [
        checks.line(f"{where}[{i}]", name, longest).strip()
        for i, name in enumerate(checks.rows(where, value, most))
    ]
    for name in found:
        if not name:
            raise BadInput(where, name, "must each have a name")
        if found.count(name) > 1:
            raise BadInput(where, name, "stands twice; name each once")
    return tuple(found)


def _seam(where: str, row: Any, parts: tuple[str, ...]) -> Seam:
    """A seam from plain data. Raises BadInput."""
    data = dict(checks.mapping(where, row))
    checks.keys(where, data, SEAM_KEYS)
    data["key"] = data["key"].strip() if isinstance(data.get("key"), str) else data.get("key")
    if not data["key"]:
        raise BadInput(
            f"{where}.key", data["key"], "is missing; give each seam a short key such as c1"
        )
    if isinstance(data["key"], str) and ("," in data["key"] or " " in data["key"]):
        raise BadInput(
            f"{where}.key",
            data["key"],
            "must be one word without a comma, for orders are written with commas",
        )
    seen = data.get("seen", True)
    if not isinstance(seen, bool):
        raise BadInput(f"{where}.seen", seen, "must be true or false")
    own = _beside(
        where,
        lambda: checked(Seam, {k: data.get(k) for k in entries(Seam) if k != "seen"}, "a seam"),
    )
    own["face"] = own["face"].strip() or "top"
    procedure = (own["procedure"] or "").strip()
    joint = data.get("joint")
    if joint is not None and procedure:
        raise BadInput(
            f"{where}.procedure", procedure, "stands beside a joint; give the one or the other"
        )
    if joint is None and not procedure:
        raise BadInput(
            f"{where}.joint", None, "is missing; give a joint, or the number of a procedure"
        )
    lists = {
        name: _names(f"{where}.{name}", _given(data, name, []), MOST_SEAMS, LONGEST_PART)
        for name in SEAM_LISTS
    }
    if not 1 <= len(lists["joins"]) <= MOST_JOINED:
        raise BadInput(
            f"{where}.joins",
            ", ".join(lists["joins"]),
            f"must name the parts it joins, 1 to {MOST_JOINED}",
        )
    for part in lists["joins"]:
        if part not in parts:
            checks.name(f"{where}.joins", part, parts)
    return Seam(
        **{
            **own,
            **lists,
            "seen": seen,
            "procedure": procedure or None,
            "joint": None if joint is None else _joint(where, joint),
        }
    )


def _joint(where: str, data: Any) -> Any:
    given = {
        k: v
        for k, v in checks.mapping(f"{where}.joint", data).items()
        if k not in ("format", "version")
    }
    return _beside(f"{where}.joint", lambda: make_joint(given))


def _beside(where: str, make: Callable[[], Any]) -> Any:
    """What is made of a part of the data, a refusal of it named with its place."""
    try:
        return make()
    except BadInput as error:
        raise BadInput(f"{where}.{error.field}", error.value, error.rule) from error


def _about(data: Any, parts: tuple[str, ...]) -> dict[str, Part]:
    found = {}
    for name, row in checks.mapping("about", data).items():
        checks.name("about", name, parts)
        where = f"about.{name}"
        checks.keys(where, checks.mapping(where, row), ABOUT_KEYS)
        at = row.get("at")
        found[name] = Part(
            note=checks.line(f"{where}.note", row.get("note", ""), LONGEST_NOTE),
            cuts=tuple(
                _cut(f"{where}.cuts[{i}]", r)
                for i, r in enumerate(
                    checks.rows(f"{where}.cuts", _given(row, "cuts", []), MOST_LINES)
                )
            ),
            holes=tuple(
                _hole(f"{where}.holes[{i}]", r)
                for i, r in enumerate(
                    checks.rows(f"{where}.holes", _given(row, "holes", []), MOST_LINES)
                )
            ),
            at=_at(f"{where}.at", at) if at is not None else None,
        )
    return found


def _at(where: str, value: Any) -> tuple[float, float, float, float]:
    rows = checks.rows(where, value, 4)
    if len(rows) != 4:
        raise BadInput(where, value, "must be left, top, width and height, of 100 each")
    left, top = (checks.number(where, v, 0, 100) for v in rows[:2])
    wide, high = (checks.number(where, v, 2, 100) for v in rows[2:])
    return left, top, wide, high


def _cut(where: str, row: Any) -> Cut:
    data = checks.mapping(where, row)
    checks.keys(where, data, ("count", "what", "length_mm", "width_mm"))
    width = data.get("width_mm")
    return Cut(
        int(checks.number(f"{where}.count", data.get("count", 1), 1, 10_000)),
        checks.line(f"{where}.what", data.get("what", ""), LONGEST_STUFF),
        checks.number(f"{where}.length_mm", data.get("length_mm"), 1, LONGEST_MM, "mm"),
        None if width is None else checks.number(f"{where}.width_mm", width, 1, LONGEST_MM, "mm"),
    )


def _hole(where: str, row: Any) -> Hole:
    data = checks.mapping(where, row)
    checks.keys(where, data, ("diameter_mm", "x_mm", "y_mm"))
    limits = {
        "diameter_mm": (0.5, 500.0),
        "x_mm": (-LONGEST_MM, LONGEST_MM),
        "y_mm": (-LONGEST_MM, LONGEST_MM),
    }
    return Hole(**{k: checks.number(f"{where}.{k}", data.get(k), *limits[k], "mm") for k in limits})


def job_data(job: Job) -> dict[str, Any]:
    """A job as plain data; what is as usual and was added to the format's first keys is left
    out.
    """
    times = {k: getattr(job.times, k) for k in entries(Times)}
    data: dict[str, Any] = {
        "title": job.title,
        "quantity": job.quantity,
        "parts": list(job.parts),
        "seams": [seam_data(s) for s in job.seams],
        "times": times,
        "balance_s": job.balance_s,
    }
    if job.about:
        data["about"] = {name: _about_data(part) for name, part in job.about.items()}
    return data | {
        k: list(v) if k == "order" else v
        for k in ("order", "first", "last")
        if (v := getattr(job, k))
    }


def seam_data(seam: Seam) -> dict[str, Any]:
    """A seam as plain data."""
    found = {
        "key": seam.key,
        "joint": joint_data(seam.joint) if seam.joint is not None else None,
        "procedure": seam.procedure,
        "title": seam.called,
        "joins": list(seam.joins),
        "side": seam.side,
        "face": seam.face,
        "seen": seam.seen,
        "after": list(seam.after),
        "hides": list(seam.hides),
        "free_mm": seam.free_mm,
    }
    return {k: v for k, v in found.items() if k not in ("joint", "free_mm", "title") or v}


def _about_data(part: Part) -> dict[str, Any]:
    cuts = [
        {"count": c.count, "what": c.what, "length_mm": c.length_mm}
        | ({"width_mm": c.width_mm} if c.width_mm else {})
        for c in part.cuts
    ]
    holes = [{"diameter_mm": h.diameter_mm, "x_mm": h.x_mm, "y_mm": h.y_mm} for h in part.holes]
    found = {
        "note": part.note,
        "cuts": cuts,
        "holes": holes,
        "at": list(part.at) if part.at else None,
    }
    return {k: v for k, v in found.items() if v}
