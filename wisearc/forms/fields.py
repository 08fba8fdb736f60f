"""A field of a form: what a template shows of it, made of the declaration of what it is, and what
was typed in it read back.
"""

from __future__ import annotations

from msgspec import Struct

from ..core.errors import InputError
from ..core.quantities import TYPED_WITH_UNIT, Quantity, parse_quantity
from ..core.schema.entries import Entry
from ..core.schema.json_types import Json


class Choice(Struct, frozen=True):
    """One choice of a field."""

    value: str
    label: str
    note: str = ""


class Field(Struct, frozen=True):
    """A field of a form.

    Attributes:
        key: Its name in the form.
        value: What stands in it or is chosen, as text; "yes" where a flag is on.
        kind: "text", "figure", "chips" and "pick" (one of `options`), "ticks" (several of them,
            those in `ticked`) or "flag".
        unit: The unit a bare figure is in, where the field shows it.
        hint: What can be typed.
        note: What there is to say of what stands in it.
        own: What holds where nothing is typed.
        blank: What the empty choice is called.
        error: Why what was typed is refused, in a sentence.
        most: The most characters that it takes.
        prefix: Sets its HTML id apart from those of other forms of the page.
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
        """Its id on the page."""
        return self.prefix + self.key.replace(".", "-").replace("_", "-")

    @property
    def chosen_note(self) -> str:
        """What there is to say of the option that is chosen."""
        return next((o.note for o in self.options if o.value == self.value), "")


def list_choices(declared: Entry) -> tuple[Choice, ...]:
    """The names a field can take, as choices."""
    return tuple(Choice(key, o.label, o.note) for key, o in declared.allowed().items())


def value_text(value: object, quantity: str, habit: str) -> str:
    """A value as its field shows it: a figure with its unit where it is typed with one, "" for
    None.
    """
    if value is None:
        return ""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return str(value)
    if quantity == "length":
        return Quantity(value, "exact").text(habit)
    return Quantity(value, quantity).text(habit) if quantity in TYPED_WITH_UNIT else f"{value:g}"


def build_field(
    key: str, declared: Entry, value: object, habit: str, options: tuple[Choice, ...] = ()
) -> Field:
    """The field of a declared field of a document. Parameters: value, what stands in it; options,
    those it offers, else the names it can take.
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
        "" if several else value_text(value, quantity, habit),
        kind,
        unit="" if quantity in TYPED_WITH_UNIT else declared.unit,
        options=options,
        ticked=several,
        hint=declared.hint,
        required=declared.required,
    )


def parse_typed(declared: Entry, text: str, habit: str, key: str = "") -> Json:
    """Parse the text of a declared field. Raises InputError with the key of the field.

    Args:
        declared: Declaration of the field.
        text: What the user typed.
        habit: "mm" or "in", for a number without a unit.
        key: Key of the field in its form, if that differs ("pulse.least_pps").

    Returns:
        A number in the stored unit, or the text.
    """
    key = key or declared.key
    if declared.kind not in ("number", "count"):
        return text
    sign = text[:1] in ("-", "−")
    if sign and declared.low >= 0:
        raise InputError(key, text, "cannot be below 0")
    found = parse_quantity(text[sign:].strip(), declared.quantity, key, habit)
    return -found if sign else found
