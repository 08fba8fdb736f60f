"""The cautions of a weld metal: dilution, martensite, cracking, corrosion, and those of its rod."""

from ... import catalogue
from ...catalogue.rows import Rod
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.chemistry import (
    ALLOWED_FERRITE_PCT,
    CRACKING_RATIO,
    ROOM_C,
    STAINLESS_CR_PCT,
    calculate_pren,
    martensite_start_c,
)
from ...physics.chemistry import WeldMetal as Reckoned
from ...quantities import length, temperature
from ...reasons import Care, Caution, Note, Stop
from ..arc.aim import describe_aim
from .feeding import (
    DILUTION_SLACK,
    is_steel_thicker,
)
from .rod_rules import check_rod
from .service import check_service
from .weld_metal import DilutionEstimate, is_soft

# The uncertainty of the diagram, in ferrite and in nickel equivalent.
FERRITE_SLACK_PCT = 4.0
PITTING_SLACK = 1.0
# The cautions that advise how to weld, which has no meaning beside a stop of the filler.
SOFTENED = ("ferrite-low", "martensite", "hot-cracking", "dilution-high", "no-ferrite")
# A dilution solved to a thousandth leaves the martensite start this near room temperature.
NEAR_C = 1.0


def judge(
    joint: Joint, section: Section, rod: Rod | None, estimate: DilutionEstimate
) -> tuple[Caution, ...]:
    """Return every caution of weld metal, rod and service, once for each code.

    Args:
        joint: The joint.
        section: Its section.
        rod: The rod, or None.
        estimate: The weld metal.
    """
    cautions = [*check_rod(joint, section, rod)]
    for i, metal in enumerate(estimate.spread):
        cautions += _check_metal(joint, section, rod, metal, estimate, i > 0)
    cautions += check_service(joint, rod)
    kept: dict[str, Caution] = {}
    stopped = any(item.level == "stop" for item in cautions)
    for item in cautions:
        # A note on how to feed or to taper does not soften a stop.
        if not (stopped and item.level != "stop" and item.code in SOFTENED):
            kept.setdefault(item.code, item)
    return tuple(kept.values())


def _check_metal(
    joint: Joint,
    section: Section,
    rod: Rod | None,
    m: Reckoned,
    estimate: DilutionEstimate,
    leaning: bool,
) -> list[Caution]:
    """Return the cautions of one share.

    `m` is its weld metal, and `leaning` marks a share other than half and half.
    """
    if rod is not None and rod.has("braze"):
        return [
            Note(
                "not-reckoned",
                "filler",
                "A braze does not melt the sheet, so its weld metal is not calculated.",
            )
        ]
    if section.stainless_sides == 0:
        return []
    cautions: list[Caution] = []
    if m.chromium_pct < STAINLESS_CR_PCT:
        wording = (
            "Do not weld: the weld metal has {cr} % chromium, and stainless needs 10.5 "
            "%. The weld will rust. Use a stainless rod from the chart."
        )
        return [Stop("weld-metal-not-stainless", "filler", wording, cr=f"{m.chromium_pct:.1f}")]
    is_over = estimate.over > DILUTION_SLACK and not leaning
    solved = estimate.limits.design is not None
    if not leaning and estimate.over and section.carbon_sides and rod is not None:
        over = _check_dilution(joint, section, rod, estimate)
        if over:
            return [over]
    cautions += [
        *_check_martensite(joint, m, is_over, solved),
        *_check_cracking(rod, m, is_over, leaning),
    ]
    poorer = min(calculate_pren(analysis) for analysis in joint.analyses)
    if section.stainless_sides == 2 and m.pren < poorer - PITTING_SLACK:
        wording = (
            "The weld has a pitting number of {w}, but the poorer sheet has {b}. The "
            "weld pits first. Use a rod with more alloy."
        )
        cautions.append(
            Care("pitting-below-base", "filler", wording, w=f"{m.pren:.1f}", b=f"{poorer:.1f}")
        )
    return cautions + [
        Note("not-reckoned", "filler", "{what}.", what=text) for text in m.not_reckoned
    ]


def _check_dilution(
    joint: Joint, section: Section, rod: Rod, estimate: DilutionEstimate
) -> Caution | None:
    """Return the caution or stop for more melted sheet than a rod of stainless to steel allows.

    Within the error of the hand it is a caution, where steel is the thicker side.
    """
    feed, limit = estimate.feed, estimate.limits.design or 0.0
    figures = {"d": f"{100 * estimate.dilution:.0f}", "m": f"{100 * limit:.0f}", "rod": rod.key}
    if estimate.over > DILUTION_SLACK:
        text = (
            "Do not weld: the planned dilution is {d} %, but {rod} allows {m} % at most. The weld "
            "will crack. Use a richer rod, or butter the steel with {butter}."
        )
        butter = catalogue.butter_rod().key
        return Stop("dilution-too-high", "filler", text, butter=butter, **figures)
    if not is_steel_thicker(joint):
        return None
    how = "a leg of {leg}" if feed.leg_mm else "a full build-up"
    text = (
        "The planned dilution is {d} %, and {rod} allows {m} % with the arc on the steel. A slip "
        f"of the arc can crack the weld. Feed {how} and aim {{aim}}."
    )
    aim = describe_aim(joint, section, rod.key)
    leg = length(feed.leg_mm or 0.0)
    return Care("dilution-high", "filler", text, aim=aim, leg=leg, **figures)


def _check_martensite(joint: Joint, m: Reckoned, is_over: bool, solved: bool) -> list[Caution]:
    """Return the cautions for hard weld metal.

    By the martensite start if it is calculated or solved, or else by the region. Low-carbon
    ferritic sheet tolerates a little.
    """
    start = martensite_start_c(m.analysis) if solved and m.analysis else m.martensite_start_c
    if start is not None and start <= ROOM_C + NEAR_C:
        return []
    soft = is_soft(joint, m)
    if start is not None and not soft:
        level = Care if is_over else Note
        text = (
            "Martensite starts at {ms}, above room temperature. The weld hardens and can "
            "crack. Use a richer rod or more of it."
        )
        return [level("martensite", "filler", text, ms=temperature(start))]
    if start is None and "martensite" not in m.region:
        return []
    if soft:
        text = (
            "The weld of ferritic sheet contains soft, low-carbon martensite. This is "
            "normal, and the weld can be bent."
        )
        return [Note("martensite", "filler", text)]
    text = (
        "By the constitution diagram the weld is {region}. It is hard and can crack "
        "when bent. Use a richer rod or more of it."
    )
    return [Care("martensite", "filler", text, region=m.region)]


def _check_cracking(rod: Rod | None, m: Reckoned, is_over: bool, leaning: bool) -> list[Caution]:
    if rod is not None and rod.has("fully_austenitic"):
        text = (
            "This weld metal is fully austenitic. It can crack when hot. Keep the heat "
            "low, fill the craters and taper slowly."
        )
        return [Note("no-ferrite", "filler", text)]
    ferrite, ratio = m.ferrite_pct, m.solidification_ratio
    min_pct = ALLOWED_FERRITE_PCT[0]
    if ferrite is not None and ferrite < min_pct:
        raw = 3 * (m.cr_eq - 0.93 * m.ni_eq - 6.7)
        figures = {"f": f"{ferrite:.1f}"}
        if raw < min_pct - FERRITE_SLACK_PCT and is_over:
            text = (
                "The ferrite is {f} %, below the minimum of 3 %, and no rod feed raises it. "
                "The weld can crack when hot. Keep the heat low and fill the craters."
            )
            return [Care("hot-cracking", "filler", text, **figures)]
        if leaning:
            text = (
                "With more of the worse side melted, ferrite falls to {f} %. The weld can "
                "crack when hot. Do not dwell, feed well and fill the craters."
            )
            return [Note("ferrite-low", "filler", text, **figures)]
        text = (
            "Ferrite is {f} %, below the minimum of 3 % but within the accuracy of the "
            "calculation. The weld can crack when hot. Feed well, do not dwell, and fill the "
            "craters."
        )
        return [Note("ferrite-low", "filler", text, **figures)]
    if ferrite is not None and ratio is not None and ratio < CRACKING_RATIO:
        text = (
            "The weld solidifies as austenite first (ratio {r}, below 1.5). It can crack "
            "when hot. Keep the heat low and fill the craters."
        )
        return [Note("hot-cracking", "filler", text, r=f"{ratio:.2f}")]
    return []
