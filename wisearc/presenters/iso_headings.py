"""The headings of a welding procedure specification, each with the answer of a saved revision.

The order and the headings are those of ISO 15609-1 for arc welding (published; from memory). A
heading without an answer has the text “none”, because an empty line could be an omission.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct

from ..core.catalogue import load_joint_kinds, load_positions
from ..core.quantities import Quantity
from ..core.schema.figures import format_value
from ..formats.plan_lines import Line
from .procedure_page import RecordView

NONE = "none"
FILLET = "fillet"
# ISO 4063 for TIG with a rod and without one, ISO 14175 for argon (published; from memory).
PROCESS_WITH_ROD, PROCESS_WITHOUT_ROD = "141, TIG with a rod", "142, TIG without a rod"
ARGON = "I1, argon"


class Heading(Struct, frozen=True):
    """A heading with its answer as text."""

    heading: str
    text: str


class HeadingGroup(Struct, frozen=True):
    """A group of headings."""

    title: str
    headings: Sequence[Heading]


class _Source(Struct, frozen=True):
    """A revision, its answers by key, its ranges by label, and the shop."""

    view: RecordView
    lines: Mapping[str, Line]
    ranges: Mapping[str, str]
    shop: str


_Answer = Callable[[_Source], str]


def _join_line(key: str) -> _Answer:
    def answer(source: _Source) -> str:
        line = source.lines.get(key)
        if line is None:
            return NONE
        return ", ".join(text for text in (line.what, line.detail) if text)

    return answer


def _list_records(source: _Source) -> str:
    runs = [f"run of {row.record.when}, {row.record.who}" for row in source.view.proving]
    return "; ".join(runs) or "no good run yet"


def _list_metals(source: _Source) -> str:
    return " to ".join(side.metal for side in source.view.plan.section.sides)


def _list_dimensions(source: _Source) -> str:
    parts = []
    for side in source.view.plan.section.sides:
        text = Quantity(side.thickness_mm, "length").text(source.view.habit)
        if side.diameter_mm is not None:
            text += f", diameter {Quantity(side.diameter_mm, 'length').text(source.view.habit)}"
        parts.append(f"{side.form} {text}")
    return "; ".join(parts)


def _name_process(source: _Source) -> str:
    return PROCESS_WITH_ROD if source.view.plan.filler.rod else PROCESS_WITHOUT_ROD


def _describe_joint(source: _Source) -> str:
    return f"{source.view.text} Drawing on this sheet."


def _name_position(source: _Source) -> str:
    joint = source.view.plan.joint
    position = load_positions()[str(joint.get("position", "flat"))]
    is_fillet = load_joint_kinds()[str(joint["joint"])].fed == FILLET
    return f"{position.iso_codes[is_fillet]}, {position.name}"


def _describe_preparation(source: _Source) -> str:
    tacks = _join_line("tacks")(source)
    return f"{_join_line('fit-up')(source)}. Degreased, oxide brushed off. Tacks: {tacks}."


def _describe_rod(source: _Source) -> str:
    filler = _join_line("filler")(source)
    return f"{filler}. Clean and dry" if source.view.plan.filler.rod else NONE


def _describe_electrics(source: _Source) -> str:
    current, pulse = _join_line("current")(source), _join_line("pulse")(source)
    allowed = source.ranges.get("Setting") or source.ranges.get("Unpulsed current", "")
    limits = f"; setting allowed {allowed}" if allowed else ""
    return f"{source.view.plan.technique.polarity}; {current}{limits}; pulse: {pulse}"


def _describe_speed(source: _Source) -> str:
    allowed = source.ranges.get("Travel speed")
    speed = _join_line("travel")(source)
    return f"manual; {speed}" + (f"; allowed {allowed}" if allowed else "")


def _describe_interpass(source: _Source) -> str:
    limit_c = source.view.plan.heat.interpass_c
    return f"at most {format_value(limit_c, 'temperature', source.view.habit)}"


def _describe_gas(source: _Source) -> str:
    allowed = source.ranges.get("Argon")
    return f"{ARGON}; {_join_line('gas')(source)}" + (f"; allowed {allowed}" if allowed else "")


def _describe_heat(source: _Source) -> str:
    heat = source.view.plan.heat
    units = source.view.habit
    arc, standard = (
        format_value(value, "heat", units)
        for value in (heat.heat_input_kj_mm, heat.heat_input_en_kj_mm)
    )
    return f"arc energy {arc}; heat input {standard} with an efficiency of 0.6"


def _describe_after(source: _Source) -> str:
    texts = [reason.sentence.text(source.view.habit) for reason in source.view.plan.after]
    return " ".join(texts) or NONE


def _describe_nozzle(source: _Source) -> str:
    return _join_line("torch")(source)


_GROUPS: tuple[tuple[str, tuple[tuple[str, _Answer], ...]], ...] = (
    (
        "Manufacturer",
        (
            ("Manufacturer", lambda source: source.shop or "not named"),
            (
                "Procedure specification",
                lambda source: f"{source.view.number}, revision {source.view.revision.letter}",
            ),
            ("Procedure qualification record", _list_records),
        ),
    ),
    (
        "Parent material",
        (
            ("Parent materials", _list_metals),
            ("Dimensions", _list_dimensions),
        ),
    ),
    (
        "Common to all welding",
        (
            ("Welding process", _name_process),
            ("Joint design", _describe_joint),
            ("Welding position", _name_position),
            ("Joint preparation", _describe_preparation),
            ("Welding technique", _join_line("technique")),
            ("Back gouging", lambda _: NONE),
            ("Backing", _join_line("back")),
            ("Welding consumables", _describe_rod),
            ("Electrical parameters", _describe_electrics),
            ("Mechanised welding", lambda _: NONE),
            ("Travel speed", _describe_speed),
            ("Preheating temperature", lambda _: "none; the metal is dry and above 5 °C"),
            ("Interpass temperature", _describe_interpass),
            ("Preheat maintenance temperature", lambda _: NONE),
            ("Post-heating for hydrogen release", lambda _: NONE),
            ("Post-weld heat treatment", lambda _: NONE),
            ("Clean-up after welding", _describe_after),
            ("Shielding gas", _describe_gas),
            ("Heat input", _describe_heat),
        ),
    ),
    (
        "TIG welding",
        (
            ("Tungsten electrode", _join_line("tungsten")),
            ("Gas nozzle", _describe_nozzle),
        ),
    ),
)
HEADINGS = tuple(heading for _, headings in _GROUPS for heading, _ in headings)


def list_heading_groups(view: RecordView, shop: str) -> list[HeadingGroup]:
    """Return the headings of a procedure specification with the answers of a revision.

    Args:
        view: The revision.
        shop: Name of the shop.

    References:
        ISO 15609-1, Specification and qualification of welding procedures, arc welding (published;
        from memory).
    """
    source = _Source(view, {line.key: line for line in view.lines}, dict(view.bands), shop)
    return [
        HeadingGroup(title, [Heading(heading, answer(source)) for heading, answer in headings])
        for title, headings in _GROUPS
    ]
