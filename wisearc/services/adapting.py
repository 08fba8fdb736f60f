"""When one word of the joint changes, the others that can no longer stand follow it, and it is said."""

from __future__ import annotations

from typing import Any

from ..core import catalogue

_BRANCH = "25 mm"
_RUN = "51 mm"
_FLANGE_MM = "4 mm"


def adapt(data: dict[str, Any], changed: str) -> tuple[dict[str, Any], list[str]]:
    """Let the rest follow a change.

    Parameters: data of a joint as a link reads it; changed, the link's key that was changed, or third.add,
    third.drop for a third member like the second.
    Returns the data and a sentence for each word that followed.
    """
    out = {**data, "members": [dict(m) for m in data["members"]]}
    said: list[str] = []
    if changed == "joint":
        _forms_follow_joint(out, said)
    elif changed == "third.add" and len(out["members"]) == 2:
        out["members"].append(dict(out["members"][1]))
    elif changed == "third.drop":
        del out["members"][2:]
    elif changed.endswith(".form"):
        _joint_follows_forms(out, said)
    _diameters(out, said)
    tube = out["members"][0].get("form") == "tube"
    if not tube and out.get("length") == "all-round":
        out["length"] = "100 mm"
        said.append("All round is for tubes: the seam is taken as 100 mm.")
    if not tube and out.get("position") == "fixed-tube":
        out["position"] = "flat"
        said.append("A fixed tube is for tubes: taken as flat.")
    if changed == "joint" and tube:
        out["length"] = "all-round"
    if out.get("control") == "none" and out.get("pulse") == "pedal":
        out["pulse"] = "auto"
        said.append("Pulsing by pedal needs a pedal: the pulse is the plan's own again.")
    return out, said


def _forms_follow_joint(out: dict[str, Any], said: list[str]) -> None:
    kind = catalogue.joint_kinds().get(out["joint"])
    if kind is None:
        return
    for i, member in enumerate(out["members"]):
        form = member.get("form", "sheet")
        if kind.forms == "tube" or (kind.forms == "tube-plate" and i == 0):
            wanted = "tube"
        elif kind.forms == "tube-plate":
            wanted = form if form in ("sheet", "flange", "bar") else "flange"
        else:
            wanted = "sheet" if form == "tube" else form
        if wanted != form:
            member["form"] = wanted
            if wanted == "flange" and i == 1:
                member["thickness"] = _FLANGE_MM
            said.append(f"For {kind.phrase} the {('first', 'second', 'third')[i]} member is now {wanted}.")


def _joint_follows_forms(out: dict[str, Any], said: list[str]) -> None:
    kind = catalogue.joint_kinds().get(out["joint"])
    forms = [m.get("form", "sheet") for m in out["members"][:2]]
    if kind is None:
        return
    fits = {
        "tube": forms == ["tube", "tube"],
        "tube-plate": forms[0] == "tube" and forms[1] != "tube",
        "sheet": "tube" not in forms,
    }[kind.forms]
    if fits:
        return
    if forms == ["tube", "tube"]:
        out["joint"] = "tube-butt"
    elif forms[0] == "tube":
        out["joint"] = "tube-plate"
    elif forms[1] == "tube":
        out["members"][0], out["members"][1] = out["members"][1], out["members"][0]
        out["joint"] = "tube-plate"
    else:
        out["joint"] = "butt"
    said.append(f"With {forms[0]} to {forms[1]} the joint is now {catalogue.joint_kinds()[out['joint']].phrase}.")


def _diameters(out: dict[str, Any], said: list[str]) -> None:
    for i, member in enumerate(out["members"]):
        if member.get("form") != "tube":
            member.pop("diameter", None)
            member.pop("diameter_mm", None)
        elif not member.get("diameter") and not member.get("diameter_mm"):
            member["diameter"] = _RUN if out["joint"] == "tube-cope" and i == 1 else _BRANCH
            said.append(
                f"The {('first', 'second', 'third')[i]} tube is taken as {member['diameter']} across: say what it is."
            )
