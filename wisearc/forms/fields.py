"""A form field: the data for its template, from the declaration, and the parser of its text."""

from __future__ import annotations

from msgspec import Struct

from ..core.errors import InputError
from ..core.quantities import Quantity
from ..core.schema.entries import Entry
from ..core.schema.json_types import Json
from ..core.typed_quantities import TYPED_WITH_UNIT, parse_quantity


class Choice(Struct, frozen=True):
    """One option of a field."""

    value: str
    label: str
    note: str = ""


class Field(Struct, frozen=True):
    """A form field.

    Attributes:
        key: Its name in the form.
        value: Its text or selected option; "yes" for a flag that is on.
        kind: "text", "figure", "chips" and "pick" (one of `options`), "ticks" (several of them,
            those in `ticked`) or "flag".
        unit: The unit of a number without unit, if the field shows it.
        hint: An example.
        note: A remark about its value.
        own: The value for an empty field.
        blank: The label of the empty option.
        error: The error, in a sentence.
        most: The maximum number of characters.
        prefix: The prefix of its HTML id, to separate the forms of a page.
    """

    key: str
    label: str
    value: str = ""
    kind: str = "text"
    unit: str = ""
    options: tuple[Choice, ...] = ()
    ticked: tuple[str, ...] = ()
    hint: str = ""
    note: str = ""
    own: str = ""
    blank: str = "–"
    error: str = ""
    required: bool = False
    most: int = 60
    prefix: str = "f-"

    @property
    def html_id(self) -> str:
        """Return its id on the page."""
        return self.prefix + self.key.replace(".", "-").replace("_", "-")

    @property
    def chosen_note(self) -> str:
        """Return the remark about the selected option."""
        return next((o.note for o in self.options if o.value == self.value), "")


def list_choices(declared: Entry) -> tuple[Choice, ...]:
    """Return the allowed names of a field as options."""
    return tuple(Choice(key, o.label, o.note) for key, o in declared.allowed().items())


def value_text(value: object, quantity: str, units: str) -> str:
    """Return a value for its field: a figure with its unit if typed with one, "" for None.

    Args:
        value: The value.
        quantity: Kind of quantity.
        units: Unit system.
    """
    if value is None:
        return ""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return str(value)
    if quantity == "length":
        return Quantity(value, "exact").text(units)
    return Quantity(value, quantity).text(units) if quantity in TYPED_WITH_UNIT else f"{value:g}"


def build_field(
    key: str, declared: Entry, value: object, units: str, options: tuple[Choice, ...] = ()
) -> Field:
    """Return the form field of a declared field.

    Args:
        key: Its name in the form.
        declared: The declaration.
        value: Its value.
        units: Unit system.
        options: Its options, or () for the allowed names.
    """
    options = options or list_choices(declared)
    several = tuple(map(str, value)) if isinstance(value, tuple) else ()
    quantity = "plain" if options else declared.quantity
    kind = "figure" if declared.kind in ("number", "count") else "text"
    if options:
        kind = "ticks" if declared.kind == "names" else "pick"
    return Field(
        key,
        declared.label,
        "" if several else value_text(value, quantity, units),
        kind,
        unit="" if quantity in TYPED_WITH_UNIT else declared.unit,
        options=options,
        ticked=several,
        hint=declared.hint,
        required=declared.required,
    )


def parse_typed(declared: Entry, text: str, units: str, key: str = "") -> Json:
    """Parse the text of a declared field.

    Args:
        declared: Declaration of the field.
        text: The typed text.
        units: "mm" or "in", for a number without a unit.
        key: Key of the field in its form, if that differs ("pulse.least_pps").

    Returns:
        A number in the stored unit, or the text.

    Raises:
        InputError: The text is wrong. The error names the key.
    """
    key = key or declared.key
    if declared.kind not in ("number", "count"):
        return text
    sign = text[:1] in ("-", "−")
    if sign and declared.low >= 0:
        raise InputError(key, text, "cannot be below 0")
    quantity = parse_quantity(text[sign:].strip(), declared.quantity, key, units)
    return -quantity if sign else quantity
