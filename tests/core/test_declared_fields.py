"""Fields of structs are declared in their annotations."""

import unittest
from typing import Annotated

from msgspec import Struct

from wisearc.core.schema.entries import Entry, read_attributes, read_defaults, read_entries
from wisearc.core.schema.figures import Figure, list_figures, read_declarations


class Cup(Struct, frozen=True):
    """A struct with fields of each kind."""

    bore_mm: Annotated[float, Figure("Bore", "length", 1)]
    label: Annotated[str, Entry("text", key="name"), Figure("Name")] = "x"
    rows: Annotated[tuple[str, ...], Entry("by-name")] = ()
    size: Annotated[int, Entry("count", required=True)] = 7
    count: int = 3


class Postponed(Struct, frozen=True):
    """A struct whose module postpones its annotations."""

    bore_mm: "Annotated[float, Figure('Bore')]"


class DeclaredFields(unittest.TestCase):
    def test_figures_in_order(self) -> None:
        self.assertEqual(
            [(key, one.label) for key, one in list_figures(Cup).items()],
            [("bore_mm", "Bore"), ("label", "Name")],
        )

    def test_entries_by_key_in_a_file(self) -> None:
        self.assertEqual(list(read_entries(Cup)), ["name", "rows", "size"])
        self.assertEqual(read_attributes(Cup), {"name": "label", "rows": "rows", "size": "size"})

    def test_defaults_without_tables(self) -> None:
        self.assertEqual(read_defaults(Cup), {"name": "x", "size": 7})

    def test_postponed_annotations_are_refused(self) -> None:
        with self.assertRaisesRegex(TypeError, r"Postponed\.bore_mm"):
            read_declarations(Postponed)


if __name__ == "__main__":
    unittest.main()
