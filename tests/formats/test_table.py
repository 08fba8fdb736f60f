"""CSV tables and their limits."""

import unittest

from wisearc.core.errors import InputError
from wisearc.core.shop.shop import LISTS
from wisearc.formats import shop_json
from wisearc.formats.jobs.job_csv import read_seams
from wisearc.formats.table import MAX_HEADINGS, MAX_LINES, check_headings, read_table
from wisearc.formats.templates.cut_csv import read_frame_csv


def too_many(lines: str) -> InputError:
    return InputError("file", lines, "must be fewer")


class Tables(unittest.TestCase):
    def test_headings_and_line_numbers(self) -> None:
        found = read_table('\n A ;b\n\n1;"2;\n3"\n ; \n4;5\n', ",;", 9, too_many)
        self.assertEqual(found.headings, ("a", "b"))
        self.assertEqual(found.separator, ";")
        self.assertEqual(found.lines, ((4, ["1", "2;\n3"]), (6, ["4", "5"])))

    def test_maximum_lines(self) -> None:
        self.assertEqual(len(read_table("a\n" + "1\n" * 9, ",", 9, too_many).lines), 9)
        with self.assertRaisesRegex(InputError, "more than 9 lines” must be fewer"):
            read_table("a\n" + "1\n" * 10, ",", 9, too_many)

    def test_maximum_headings(self) -> None:
        whole = read_table(",".join("a" * MAX_HEADINGS), ",", 9, too_many)
        self.assertEqual(len(whole.headings), 100)
        for text in ("a," * 1_900_000, "a" + "," * 100, "a" + "\t" * 100):
            with self.assertRaisesRegex(InputError, r"\d+ headings” exceed the maximum of 100"):
                read_table(text, ",\t", 9, too_many)

    def test_every_reader_of_a_table(self) -> None:
        readers = [read_seams, read_frame_csv]
        readers += [lambda text, key=key: shop_json.read_csv(text, key) for key in LISTS]
        for read in (*readers, shop_json.read_csv):
            for text, words in (
                ("a," * 1_000_000, "maximum of 100"),
                ("", "is empty"),
                ("\n \n", "is empty"),
                ('"a', "is not CSV"),
                ("a" * 200_000, "is not CSV"),
            ):
                with self.subTest(words), self.assertRaisesRegex(InputError, words):
                    read(text)

    def test_maximum_empty_lines(self) -> None:
        self.assertEqual(read_table("a" + "\n" * MAX_LINES, ",", 9, too_many).lines, ())
        with self.assertRaisesRegex(InputError, "Remove the empty lines"):
            read_table("a" + "\n" * (MAX_LINES + 1), ",", 9, too_many)

    def test_empty_and_repeated_headings(self) -> None:
        check_headings(("a", "b"), ("b", "a", "c"), "a list")
        with self.assertRaisesRegex(InputError, "is not one of a list: b, a"):
            check_headings(("a", "x" * 5000), ("b", "a"), "a list")
        with self.assertRaisesRegex(InputError, "heading “a” appears twice"):
            check_headings(("a", "b", "a"), ("b", "a"), "a list")


if __name__ == "__main__":
    unittest.main()
