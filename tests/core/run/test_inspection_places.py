"""Where along a seam something was seen: as shares of it, or where it stops."""

import unittest

from tests.samples import run, typed
from wisearc.core.errors import InputError
from wisearc.core.run.inspection import STOPS
from wisearc.core.schema.documents import write_document


def with_place(place: object) -> object:
    """Return the place of the grey area in a run."""
    seen = typed(run(seen={"where": {"grey": place}})).seen
    assert seen is not None
    return write_document(seen)["where"]["grey"]


class Faults(unittest.TestCase):
    def test_each_is_named_once(self) -> None:
        self.assertEqual(typed(run(faults=["pores", "hole"])).faults, ("pores", "hole"))
        with self.assertRaisesRegex(InputError, "list each name once"):
            typed(run(faults=["pores", "pores"]))


class Places(unittest.TestCase):
    def test_valid_places(self) -> None:
        for place in (STOPS, [0, 1], [0.8, 1], [0.5, 0.5]):
            with self.subTest(place=place):
                self.assertEqual(with_place(place), place)

    def test_invalid_places(self) -> None:
        for place in ("here", 0.5, None, [0.5], [0.1, 0.2, 0.3], [-0.01, 0.5], [0.5, 1.01], "ab"):
            with self.subTest(place=place), self.assertRaises(InputError):
                with_place(place)
        for place in ([0.51, 0.5], [1, 0]):
            with self.subTest(place=place), self.assertRaisesRegex(InputError, "start of the seam"):
                with_place(place)


if __name__ == "__main__":
    unittest.main()
