"""Dependent fields of a joint adapt to a change, with a notice."""

from __future__ import annotations

from ..core import catalogue
from ..core.catalogue.rows import JointKind
from ..core.joint.joint import ALL_ROUND, FORMS
from ..core.joint.rules import PLATE_FORMS, STUD_FORMS
from ..formats.link import Asked

_BRANCH = "25 mm"
_RUN = "51 mm"
_FLANGE_MM = "4 mm"
_ORDINALS = ("first", "second", "third")


def adapt_joint(asked: Asked, changed: str) -> tuple[Asked, list[str]]:
    """Adapt the other fields to a change.

    Return the joint with a notice for each adapted field.

    Args:
        asked: The joint after the change.
        changed: The changed link key, or third.add, third.drop for a third member like the second.
    """
    out = asked.copy()
    own_values = out.own
    notices: list[str] = []
    if changed == "joint":
        _match_forms(out, notices)
    elif changed == "third.add" and len(out.members) == 2:
        out.members.append(dict(out.members[1]))
    elif changed == "third.drop":
        del out.members[2:]
    elif changed.endswith(".form"):
        _match_joint(out, notices)
    _match_diameters(out, notices)
    tube = out.members[0].get("form") == "tube"
    if not tube and own_values.get("length") == ALL_ROUND:
        own_values["length"] = "100 mm"
        notices.append("All round is only for tubes. The seam length is now 100 mm.")
    position = catalogue.load_positions().get(str(own_values.get("position", "")))
    if not tube and position is not None and position.has("fixed_tube"):
        own_values["position"] = "flat"
        notices.append("A fixed tube position is only for tubes. The position is now flat.")
    if (
        tube
        and (changed == "joint" or changed.endswith(".form"))
        and own_values.get("length") != ALL_ROUND
    ):
        own_values["length"] = ALL_ROUND
        notices.append("A tube is welded all round. Enter a length to weld part of it.")
    kind = _find_kind(out)
    if (
        kind is not None
        and kind.deposit != "fillet"
        and (own_values.pop("leg", None) or own_values.pop("leg_mm", None))
    ):
        notices.append(
            f"A leg is only for fillets, and {kind.phrase} has none. The leg is now from the plan."
        )
    if own_values.get("control") == "none" and own_values.get("pulse") == "pedal":
        own_values["pulse"] = "auto"
        notices.append("Pulsing by pedal needs a pedal. The pulse is now from the plan.")
    return out, notices


def _find_kind(out: Asked) -> JointKind | None:
    return catalogue.load_joint_kinds().get(str(out.own["joint"]))


def _match_forms(out: Asked, notices: list[str]) -> None:
    kind = _find_kind(out)
    if kind is None:
        return
    for i, member in enumerate(out.members):
        form = member.get("form", "sheet")
        if kind.forms == "stud" and i == 1:
            wanted = form if form in STUD_FORMS else "rod"
        elif kind.forms == "stud":
            wanted = form if form in PLATE_FORMS else "sheet"
        elif kind.forms == "tube" or (kind.forms == "tube-plate" and i == 0):
            wanted = "tube"
        elif kind.forms == "tube-plate":
            wanted = form if form in ("sheet", "flange", "bar") else "flange"
        else:
            wanted = "sheet" if form == "tube" else form
        if wanted != form:
            member["form"] = wanted
            if wanted == "flange" and i == 1:
                member["thickness"] = _FLANGE_MM
            notices.append(f"For {kind.phrase} the {_ORDINALS[i]} member is now a {FORMS[wanted]}.")


def _match_joint(out: Asked, notices: list[str]) -> None:
    """Use the simplest joint type that fits the forms, if the present one does not."""
    kind, tubes = _find_kind(out), [m.get("form") == "tube" for m in out.members[:2]]
    if kind is None:
        return
    plate, stud = (str(m.get("form", "sheet")) for m in out.members[:2])
    fits = {
        "tube": all(tubes),
        "tube-plate": tubes == [True, False],
        "sheet": not any(tubes),
        "stud": plate in PLATE_FORMS and stud in STUD_FORMS,
    }[kind.forms]
    if fits:
        return
    first, second = (m.get("form", "sheet") for m in out.members[:2])
    if tubes == [False, True]:
        out.members[0], out.members[1] = out.members[1], out.members[0]
        notices.append("The tube must be the first member. The members are now swapped.")
    forms = "tube" if all(tubes) else "tube-plate" if any(tubes) else "sheet"
    trait = "flanged" if forms == "tube-plate" else "in_line"
    taken = next(
        k for k in catalogue.load_joint_kinds().values() if k.forms == forms and k.has(trait)
    )
    out.own["joint"] = taken.key
    notices.append(
        f"With {FORMS.get(first, first)} to {FORMS.get(second, second)} the joint is "
        f"now {taken.phrase}."
    )


def _match_diameters(out: Asked, notices: list[str]) -> None:
    kind = _find_kind(out)
    for i, member in enumerate(out.members):
        if member.get("form") != "tube":
            member.pop("diameter", None)
            member.pop("diameter_mm", None)
        elif not member.get("diameter") and not member.get("diameter_mm"):
            run = kind is not None and kind.has("cope") and i == 1
            member["diameter"] = _RUN if run else _BRANCH
            notices.append(
                f"The {_ORDINALS[i]} tube now has a diameter of {member['diameter']}. Enter "
                "the real diameter."
            )
