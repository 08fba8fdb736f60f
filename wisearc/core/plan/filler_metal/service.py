"""Requirements of the service for metal, rod and joint.

Common practice; temperature limits published, from memory.
"""

from __future__ import annotations

from ... import catalogue
from ...catalogue.rows import Metal, Rod
from ...joint.joint import SERVICES, Joint
from ...quantities import length, temperature
from ...reasons import Care, Caution, Note, Practice, Reason, Stop, WithFix
from ...schema.json_types import JsonObject

MAX_DUPLEX_C = 250.0
LONG_HEAT_C = (400.0, 550.0)
SENSITISING_C = (450.0, 850.0)
LIQUID = ("wet", "food")
L_GRADE_C_PCT = 0.03
PREHEAT_FROM_MM = 3.0
# The preheat from that thickness, and of thin metal that is colder than the last value, °C.
PREHEAT_C, WARM_C, COLD_C = (150, 200), (50, 90), 15


def is_in_liquid(joint: Joint) -> bool:
    """Return whether a joint is in liquid service, where tint starts corrosion.

    Common practice.
    """
    return joint.service in LIQUID


def is_data_in_liquid(joint: JsonObject) -> bool:
    """Return the same for a joint as plain data, possibly of another version."""
    return joint.get("service") in LIQUID


def is_data_food(joint: JsonObject) -> bool:
    """Return whether the data of a joint are for food contact."""
    return joint.get("service") == "food"


def can_withstand_service(joint: Joint, rod: Rod) -> bool:
    """Return whether the weld metal of a rod withstands the service.

    Heat excludes embrittlement and brazes.

    Args:
        joint: The joint.
        rod: The rod.
    """
    return not (joint.service == "hot" and (rod.has("brittle_hot") or rod.has("braze")))


def explain_service(joint: Joint, rod: Rod | None, usual: tuple[str, ...]) -> list[Reason]:
    """Return the effect of the service on the filler as reasons.

    Args:
        joint: The joint.
        rod: The rod, or None.
        usual: The rods of the pair without service.
    """
    if joint.service == "hot":
        rods = [catalogue.load_rods()[key] for key in usual]
        excluded = [r for r in rods if r.has("brittle_hot") and r is not rod]
        text = "Not {a} for hot service: its weld metal turns brittle above {t}."
        return [Practice(text, a=r.key, t=temperature(r.most_c)) for r in excluded]
    return []


def check_service(joint: Joint, rod: Rod | None) -> list[Caution]:
    """Return the cautions of the service for the metals, the rod and the joint.

    Args:
        joint: The joint.
        rod: The rod, or None.
    """
    cautions: list[Caution] = []
    if joint.service == "hot":
        cautions += _check_hot_service(joint, rod)
    if is_in_liquid(joint):
        cautions += _check_liquid_service(joint)
    if joint.service == "structural":
        cautions += _check_structural_service(joint)
    return cautions


def _check_hot_service(joint: Joint, rod: Rod | None) -> list[Caution]:
    cautions: list[Caution] = []
    brittle = joint.which("brittle_hot")
    cooler = {"service": "dry"}
    if brittle:
        text = (
            "Do not weld: {metal} turns brittle above {t}, and no rod here withstands "
            "this heat. The joint will crack. Use a stabilised austenitic grade with its "
            "rod, such as {grade}."
        )
        grade = next(
            m
            for m in catalogue.load_metals().values()
            if m.has("stabilised") and m.has("austenitic")
        )
        item = Stop(
            "service-unmet",
            "filler",
            text,
            metal=brittle,
            t=temperature(MAX_DUPLEX_C),
            grade=grade.key,
        )
        cautions.append(WithFix(item, "The joint stays below this temperature", **cooler))
    elif rod is not None and rod.has("brittle_hot"):
        text = (
            "Do not weld: {rod} turns brittle above {t}, and this joint gets hotter. The "
            "weld will crack. Use the recommended rod."
        )
        item = Stop("brittle-hot", "filler", text, rod=rod.key, t=temperature(rod.most_c))
        cautions.append(WithFix(item, "Use the recommended rod", filler="auto"))
    long = joint.which("long_heat")
    if long:
        text = (
            "{metal} stays long at {a} to {b}. It turns brittle there. Pass through this "
            "range quickly, or use a lower-chromium or austenitic stabilised grade."
        )
        figures = {"a": temperature(LONG_HEAT_C[0]), "b": temperature(LONG_HEAT_C[1])}
        cautions.append(
            WithFix(
                Care("long-heat", "filler", text, metal=long, **figures),
                "The joint does not stay in this range",
                **cooler,
            )
        )
    plain = next(
        (
            m.key
            for m in joint.pair
            if m.has("austenitic") and not m.has("stabilised") and not m.has("heat_resisting")
        ),
        None,
    )
    if plain:
        text = (
            "{metal} sensitises at {a} to {b}, and an L grade only delays this. The "
            "joint corrodes. Use a stabilised grade and its rod."
        )
        figures = {"a": temperature(SENSITISING_C[0]), "b": temperature(SENSITISING_C[1])}
        cautions.append(Note("sensitises-hot", "filler", text, metal=plain, **figures))
    return cautions


def _check_liquid_service(joint: Joint) -> list[Caution]:
    cautions: list[Caution] = []
    sensitised = [
        (which, m) for which, m in zip("ab", joint.pair, strict=True) if m.has("sensitises")
    ]
    if sensitised:
        text = (
            "{metal} sensitises next to the weld, whatever the rod. It turns brittle "
            "there, and this joint is for {service}. Use {better}, a stabilised ferritic "
            "grade, or an L grade."
        )
        better = sensitised[0][1].instead
        item = Care(
            "sensitises",
            "filler",
            text,
            metal=sensitised[0][1].key,
            service=SERVICES[joint.service],
            better=better,
        )
        cautions.append(
            WithFix(
                item,
                f"Plan with {better}",
                **{f"{which}.metal": m.instead for which, m in sensitised},
            )
        )
    plain = next(
        (
            m
            for m in joint.pair
            if m.has("austenitic")
            and m.analysis.get("C", 0.0) > L_GRADE_C_PCT
            and not m.has("stabilised")
        ),
        None,
    )
    if plain:
        text = (
            "{metal} is not an L grade, and this joint is for {service}. It may corrode "
            "next to the weld. Use an L grade or a stabilised grade."
        )
        cautions.append(
            Note("l-grade", "filler", text, metal=plain.key, service=SERVICES[joint.service])
        )
    if joint.service == "food":
        cautions += _check_food_service(joint)
    rusting = [(which, m) for which, m in zip("ab", joint.pair, strict=True) if m.has("rusts_wet")]
    if rusting:
        text = (
            "{metal} rusts by nature, and this joint is for {service}. The sheet rusts, however "
            "good the weld is. Use {better} or an L grade."
        )
        first = rusting[0][1]
        figures = {"metal": first.key, "service": SERVICES[joint.service]}
        item = Care("rusts-by-nature", "filler", text, better=first.instead, **figures)
        sets = {f"{which}.metal": m.instead for which, m in rusting}
        cautions.append(WithFix(item, f"Plan with {first.instead}", **sets))
    return cautions + _check_crevice(joint)


def _check_food_service(joint: Joint) -> list[Caution]:
    """Return the stop for carbon steel in contact with food."""
    steel = [which for which, m in zip("ab", joint.pair, strict=True) if not m.stainless]
    if not steel:
        return []
    grades = [m.key for m in catalogue.load_metals().values() if is_l_grade(m)]
    text = "Do not weld: carbon steel rusts in contact with food. Use {grades}."
    item = Stop("carbon-in-food", "filler", text, grades=" or ".join(grades))
    sets = dict.fromkeys((f"{which}.metal" for which in steel), grades[0])
    return [WithFix(item, f"Use {grades[0]}", **sets)]


def is_l_grade(metal: Metal) -> bool:
    """Return whether a metal is an L grade of the everyday austenitic steels."""
    low_carbon = metal.analysis.get("C", 0.0) <= L_GRADE_C_PCT
    return metal.has("tints_tabled") and low_carbon and not metal.has("sulphur")


def _check_crevice(joint: Joint) -> list[Caution]:
    """Return the caution for a joint that keeps liquid in a gap between its members."""
    if joint.kind.has("crevice") and joint.kind.instead:
        text = (
            "The open edge of this joint traps liquid. The crevice corrodes. Seal both edges or "
            "use {better}."
        )
        better = catalogue.load_joint_kinds()[joint.kind.instead].phrase
        item = Care("crevice", "fit-up", text, better=better)
        return [WithFix(item, f"Change to {better}", joint=joint.kind.instead)]
    if joint.kind.has("crevice") or joint.kind.has("back_apart"):
        text = (
            "The open side of this joint traps liquid. The crevice corrodes. Weld or "
            "seal the far side too."
        )
        return [Note("crevice", "fit-up", text)]
    return []


def get_preheat_c(thick_mm: float) -> tuple[float, float]:
    """Return the preheat of a metal that hardens, °C: low and high end.

    Common practice.

    Args:
        thick_mm: Its thickness, mm.

    >>> get_preheat_c(3.0), get_preheat_c(2.0)
    ((150, 200), (50, 90))
    """
    return PREHEAT_C if thick_mm >= PREHEAT_FROM_MM else WARM_C


def _check_structural_service(joint: Joint) -> list[Caution]:
    hardens = joint.which("hardens")
    if hardens is None:
        return []
    thick = max(m.thickness_mm for m in joint.members if m.metal.has("hardens"))
    text = (
        (
            "Preheat {metal} from {t} up to {a}–{b}. Without it the weld hardens. Cool "
            "it in still air."
        )
        if thick >= PREHEAT_FROM_MM
        else ("Thin {metal} below {cold} hardens. Warm it to {c}–{d} first. Cool it in still air.")
    )
    name = catalogue.load_metals()[hardens].name
    ends = (*PREHEAT_C, *WARM_C, COLD_C)
    warm = {key: temperature(c) for key, c in zip(("a", "b", "c", "d", "cold"), ends, strict=True)}
    return [Note("preheat", "heat", text, metal=name, t=length(PREHEAT_FROM_MM), **warm)]
