"""What is changed of a job: each change as data that can be told, made again on a job that was
changed meanwhile, and held against another's.
"""

from __future__ import annotations

import copy
from collections.abc import Mapping, Sequence
from typing import Any

from ...core.errors import BadInput
from ...core.jobs.job_data import job_data, make_job
from ...core.jobs.job_plan import moved

Change = dict[str, Any]


def applied(
    data: Mapping[str, Any], change: Mapping[str, Any], order: Sequence[str] = ()
) -> dict[str, Any]:
    """A job's data with a change made. Parameters: order, as it is shown now, which a move is made
    in. Raises BadInput where that is no job, or the seam or part is gone.
    """
    out = copy.deepcopy(dict(data))
    _DO[change["do"]](out, change, tuple(order))
    _mend_order(out)
    return job_data(make_job(out))


def subjects(change: Mapping[str, Any]) -> list[str]:
    """What a change is of: two changes of one thing go against each other."""
    kind, of = change["do"], change.get("key") or change.get("name") or ""
    if kind in ("seam", "part", "head"):
        return [f"{kind}:{of}:{field}" for field in change["set"]]
    if kind in ("move", "pin"):
        return [f"{kind}:{of}"]
    return [f"{kind}:{of}"] if kind == "order" else []


def words(change: Mapping[str, Any]) -> str:
    """A change in words."""
    kind, of = change["do"], change.get("key") or change.get("name") or ""
    if kind == "seam":
        return f"{of}: " + ", ".join(
            f"{_FIELDS.get(k, k)} {_told(k, v)}" for k, v in change["set"].items()
        )
    if kind == "head":
        return ", ".join(f"{_FIELDS.get(k, k)} {_told(k, v)}" for k, v in change["set"].items())
    if kind == "move":
        return f"{of} put at place {change['to'] + 1}"
    if kind == "pin":
        return f"{of} pinned {change['at']}" if change["at"] else f"{of} no longer pinned"
    if kind == "order":
        return "an order set by hand" if change["order"] else "the order that was found is taken"
    if kind == "rename-part":
        return f"{of} renamed {change['to']}"
    told = {
        "add-seam": "seam {} added",
        "drop-seam": "seam {} taken out",
        "add-part": "part {} added",
        "drop-part": "part {} taken out",
        "part": "part {} changed",
    }
    return told[kind].format(of or change.get("seam", {}).get("key", ""))


_FIELDS = {
    "joins": "joins",
    "free_mm": "free sheet",
    "balance_s": "running ahead",
    "joint": "its joint",
}


def _told(key: str, value: Any) -> str:
    # a length is told in the unit of who looks, on the page itself
    if isinstance(value, Mapping) or (key.endswith("_mm") and value is not None):
        return "changed"
    if isinstance(value, list):
        return ", ".join(str(v) for v in value) or "none"
    return (
        {True: "yes", False: "no", None: "none"}.get(value, str(value))
        if isinstance(value, bool | None)
        else str(value)
    )


def _seam_at(data: dict[str, Any], key: str) -> dict[str, Any]:
    for row in data["seams"]:
        if row["key"] == key:
            return row  # type: ignore[no-any-return]
    raise BadInput("seam", key, "is no longer in this job; it was taken out meanwhile")


def _set_seam(data: dict[str, Any], change: Mapping[str, Any], _order: tuple[str, ...]) -> None:
    row = _seam_at(data, change["key"])
    row |= change["set"]
    # it goes by the one or the other, whatever another set meanwhile
    for given, other in (("joint", "procedure"), ("procedure", "joint")):
        if change["set"].get(given):
            row[other] = None
    new = row["key"]
    if new != change["key"]:
        _rename(data, change["key"], new)


def _rename(data: dict[str, Any], old: str, new: str) -> None:
    for row in data["seams"]:
        for name in ("after", "hides"):
            row[name] = [new if key == old else key for key in row.get(name) or []]
    data["order"] = [new if key == old else key for key in data.get("order") or []]
    for name in ("first", "last"):
        if data.get(name) == old:
            data[name] = new


def _add_seam(data: dict[str, Any], change: Mapping[str, Any], _order: tuple[str, ...]) -> None:
    for part in change["seam"].get("joins") or []:
        if part not in data["parts"]:
            data["parts"].append(part)
    data["seams"].append(dict(change["seam"]))


def _drop_seam(data: dict[str, Any], change: Mapping[str, Any], _order: tuple[str, ...]) -> None:
    gone = _seam_at(data, change["key"])["key"]
    data["seams"] = [row for row in data["seams"] if row["key"] != gone]
    for row in data["seams"]:
        for name in ("after", "hides"):
            row[name] = [key for key in row.get(name) or [] if key != gone]
    for name in ("first", "last"):
        if data.get(name) == gone:
            data.pop(name)


def _part_there(data: dict[str, Any], name: str) -> None:
    if name not in data["parts"]:
        raise BadInput("part", name, "is no longer in this job; it was taken out meanwhile")


def _set_part(data: dict[str, Any], change: Mapping[str, Any], _order: tuple[str, ...]) -> None:
    _part_there(data, change["name"])
    about = data.setdefault("about", {})
    about[change["name"]] = {
        k: v for k, v in {**about.get(change["name"], {}), **change["set"]}.items() if v
    }


def _add_part(data: dict[str, Any], change: Mapping[str, Any], _order: tuple[str, ...]) -> None:
    data["parts"].append(change["name"])


def _drop_part(data: dict[str, Any], change: Mapping[str, Any], _order: tuple[str, ...]) -> None:
    name = change["name"]
    _part_there(data, name)
    joined = [row["key"] for row in data["seams"] if name in row["joins"]]
    if joined:
        raise BadInput(
            "part",
            name,
            f"is joined by {', '.join(joined)}; take those seams out first, or let them join"
            " another part",
        )
    data["parts"].remove(name)
    data.get("about", {}).pop(name, None)


def _rename_part(data: dict[str, Any], change: Mapping[str, Any], _order: tuple[str, ...]) -> None:
    old, new = change["name"], change["to"]
    _part_there(data, old)
    data["parts"] = [new if name == old else name for name in data["parts"]]
    for row in data["seams"]:
        row["joins"] = [new if name == old else name for name in row["joins"]]
    about = data.get("about", {})
    if old in about:
        about[new] = about.pop(old)


def _set_head(data: dict[str, Any], change: Mapping[str, Any], _order: tuple[str, ...]) -> None:
    data |= change["set"]


def _move(data: dict[str, Any], change: Mapping[str, Any], order: tuple[str, ...]) -> None:
    _seam_at(data, change["key"])
    data["order"] = list(moved(data.get("order") or order, change["key"], change["to"]))


def _pin(data: dict[str, Any], change: Mapping[str, Any], order: tuple[str, ...]) -> None:
    key = _seam_at(data, change["key"])["key"]
    for name in ("first", "last"):
        if data.get(name) == key:
            data.pop(name)
    if change["at"]:
        data[change["at"]] = key
        if data.get("order"):
            data["order"] = list(
                moved(data["order"], key, 0 if change["at"] == "first" else len(data["order"]))
            )


def _order(data: dict[str, Any], change: Mapping[str, Any], _shown: tuple[str, ...]) -> None:
    data["order"] = list(change["order"])


def _mend_order(data: dict[str, Any]) -> None:
    """An order by hand names the seams that there are: those taken out go, those added come
    last.
    """
    keys = [row["key"] for row in data["seams"]]
    order = [key for key in data.get("order") or [] if key in keys]
    data["order"] = [*order, *(key for key in keys if key not in order)] if order else []


_DO = {
    "seam": _set_seam,
    "add-seam": _add_seam,
    "drop-seam": _drop_seam,
    "part": _set_part,
    "add-part": _add_part,
    "drop-part": _drop_part,
    "rename-part": _rename_part,
    "head": _set_head,
    "move": _move,
    "pin": _pin,
    "order": _order,
}
