"""The sentences of a plan: their figures, their places, and the format of figures."""

import unittest

from tests.core.rows import Rows, said, thick
from tests.samples import joint, member, plan, tube
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.quantities import Quantity, length, size, speed
from wisearc.core.shop.shop import ASSUMED


class Said(Rows):
    def test_where_it_applies(self) -> None:
        own = plan("butt").current.steady_a
        three = make_plan(make_joint({"joint": "tee", "members": [member()] * 3}), ASSUMED)
        for words, p, there in (
            ("back 1 mm, strip film back 25 mm", plan("butt"), True),
            ("at most 2 t or 5 mm", plan("butt", position="overhead"), True),
            ("at most 2 t or 5 mm", plan("butt"), False),
            ("grows more slowly", plan("butt", thick(2.4)), False),
            ("grows more slowly", plan("butt", thick(2.5)), True),
            ("carbon steel needs more", plan("butt", member("mild-steel")), True),
            ("carbon steel needs more", plan("butt"), False),
            ("39.4 × 1.500 × 0.87 × 1.15 = 59 A", plan("butt", member("mild-steel")), True),
            ("the default for stainless", plan("butt"), True),
            ("collet body is enough", plan("butt", pins={"front_end": "plain"}), True),
            ("4 lengths of 100 mm", plan("butt", length="400 mm"), True),
            (
                (
                    "member 1 still has zinc on it. Zinc cracks stainless, and its fume is "
                    "poisonous. Strip both faces 25 mm back"
                ),
                plan("butt", member(coating="zinc")),
                True,
            ),
            ("until the seam is below 200 °C", plan("butt", back="purge"), True),
            ("reduce to 1.5 L/min", plan("butt", back="purge"), True),
            (
                "Dust from grinding thoriated tungsten",
                plan("butt", pins={"tungsten_type": "thoriated-2"}),
                True,
            ),
            (
                "Lanthanated does the same work",
                plan("butt", pins={"tungsten_type": "thoriated-2"}),
                True,
            ),
            ("is 1.5 times the", plan("butt", pins={"current_a": own * 1.5}), True),
            ("runs away", plan("butt", pins={"current_a": own * 1.5}), True),
            ("do not fuse", plan("butt", pins={"current_a": own * 0.5}), True),
            (
                "Small tube heats up",
                plan("tube-butt", tube(diameter="24.9 mm"), length="all-round"),
                True,
            ),
            (
                "Small tube heats up",
                plan("tube-butt", tube(diameter="25 mm"), length="all-round"),
                False,
            ),
        ):
            with self.subTest(words=words, there=there):
                self.assertEqual(words in said(p), there)
        self.assertIn(" and 1.5 mm 304L", "".join(part.text() for part in three.sentence))

    def test_errors_are_reported(self) -> None:
        for value, words in (
            (None, "k must"),
            ("", "k must"),
            ("x", "k “x” must"),
        ):
            self.assertEqual(str(InputError("k", value, "must")).removesuffix("."), words)
        with self.assertRaisesRegex(InputError, "member 2 is a tube"):
            joint("butt", member(), tube())


class Shown(Rows):
    def test_half_an_amp_is_written_the_same_everywhere(self) -> None:
        """A 1.2 mm tee is set to 49.6 + 14.9 = 64.5 A.

        The answer, the field of a run and a sentence show the same.
        """
        p = plan("tee", thick(1.2))
        self.assertEqual((p.slopes.machine_a, p.slopes.dial_a), (64.5, 64))
        written = Quantity(p.slopes.machine_a, "current")
        self.rows(
            (written.number(), "64"),
            (written.text(), "64 A"),
            (f"set {written.number()}" in p.slopes.line("mm")[1], True),
        )
        self.assertIn(f"the mean is {p.current.steady_a:.0f} A", said(p, "tungsten"))

    def test_decimals(self) -> None:
        """Two decimals of a millimetre below 5, one below 100; thousandths of an inch below one.

        Minutes from sixty seconds.
        """
        self.rows(
            *(
                (length(mm).text(), words)
                for mm, words in (
                    (4.994, "4.99 mm"),
                    (5.04, "5 mm"),
                    (99.94, "99.9 mm"),
                    (100.4, "100 mm"),
                )
            ),
            *(
                (length(mm).text("in"), words)
                for mm, words in (
                    (25.2, "0.992 in"),
                    (25.4, "1 in"),
                    (27.1, "1.07 in"),
                    (252, "9.92 in"),
                    (253.2, "10 in"),
                    (254, "10 in"),
                )
            ),
            (size(99.94).text(), "99.9 mm"),
            (size(100.4).text(), "100 mm"),
            (size(253).text("in"), "9.96 in"),
            (size(255).text("in"), "10 in"),
            (speed(0.994).text(), "0.99 mm/s"),
            (speed(1.04).text(), "1 mm/s"),
            *(
                (Quantity(s, "duration").text(), words)
                for s, words in ((59, "59 s"), (60, "1 min 0 s"), (61, "1 min 1 s"))
            ),
            (Quantity(0.944, "flow").text("in"), "2 CFH"),
        )


if __name__ == "__main__":
    unittest.main()
