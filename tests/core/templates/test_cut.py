"""Cuts: what cannot be of one, each just inside and just outside; frames and shims."""

import math
import re
import unittest

from wisearc.core.errors import InputError, UnknownName
from wisearc.core.templates.cut import describe_cut, ends_mm, has_knife_edge, make_cut
from wisearc.core.templates.frame import (
    KERF_MM,
    end_text,
    make_member,
    read_diameters,
    read_end,
    shims_mm,
    sum_stock,
)
from wisearc.core.templates.template import BELOW_MM, COLLAR_MM, LETTER, Flat, lay_flat

STAY = {"branch_mm": 25, "wall_mm": 1.2, "run_mm": 51, "angle_deg": 45}


class Refused(unittest.TestCase):
    def test_each_just_outside_and_inside(self) -> None:
        for bad, good, field, words in (
            ({"offset_mm": 13.1}, {"offset_mm": 13.0}, "offset_mm", "would miss the header"),
            ({"offset_mm": -13.1}, {"offset_mm": -13.0}, "offset_mm", "at most 13 mm"),
            ({"angle_deg": 19.9}, {"angle_deg": 20}, "angle_deg", "below 20°"),
            ({"angle_deg": 90.1}, {"angle_deg": 90}, "angle_deg", "acute angle, 89.9°"),
            ({"wall_mm": 12.6}, {"wall_mm": 12.5}, "wall_mm", "exceeds the radius"),
            ({"branch_mm": 51.1}, {"branch_mm": 51}, "branch_mm", "larger than the header"),
            ({"run_mm": None}, {}, "run_mm", "missing"),
            ({"paper_mm": 2.1}, {"paper_mm": 2}, "paper_mm", "from 0 to 2"),
            ({"edge": "outer"}, {"edge": "outside"}, "edge", "outside"),
            ({"name": "x\ny"}, {"name": "x y"}, "name", "one line"),
            ({"name": "x\uffff"}, {"name": "Stützfuß"}, "name", "printed"),
            ({"branch_mm": math.nan}, {}, "branch_mm", "finite"),
            ({"branch_mm": True}, {}, "branch_mm", "number"),
            (
                {"kind": "mitre", "angle_deg": 39.9, "run_mm": None},
                {"kind": "mitre", "angle_deg": 40, "run_mm": None},
                "angle_deg",
                "below 40°",
            ),
            (
                {"kind": "mitre", "angle_deg": 90, "offset_mm": 1, "run_mm": None},
                {"kind": "mitre", "angle_deg": 180, "run_mm": None},
                "offset_mm",
                "coped tube",
            ),
            (
                {"kind": "plate", "angle_deg": 90.1, "run_mm": None},
                {"kind": "plate", "angle_deg": 90, "run_mm": None},
                "angle_deg",
                "89.9°",
            ),
            (
                {"kind": "mitre", "angle_deg": 180.1, "run_mm": None},
                {"kind": "mitre", "angle_deg": 180, "run_mm": None},
                "angle_deg",
                "180",
            ),
            ({"kind": "plate"}, {"kind": "plate", "run_mm": None}, "run_mm", "coped tube"),
            ({"colour": 1}, {}, "colour", "not a key"),
        ):
            with self.subTest(bad=bad):
                make_cut({**STAY, **good})
                with self.assertRaises(InputError) as refused:
                    make_cut({**STAY, **bad})
                self.assertEqual(refused.exception.field, field)
                self.assertIn(words, refused.exception.rule)

    def test_limits_of_the_fields(self) -> None:
        """Each value just inside is accepted, and just outside refused by its name.

        A missing value has its default.
        """
        big = {"branch_mm": 900, "wall_mm": 1, "run_mm": 3000}
        for key, low, high, of in (
            ("branch_mm", 3, 1000, {"wall_mm": 1, "run_mm": 3000}),
            ("wall_mm", 0.2, 100, {"branch_mm": 900, "run_mm": 3000}),
            ("run_mm", 3, 3000, {"branch_mm": 3, "wall_mm": 1}),
            ("paper_mm", 0, 2, big),
            ("offset_mm", -1050, 1050, big),
        ):
            for value in (low, high):
                make_cut({**of, key: value})
            for value in (low - 0.01, high + 0.01):
                with self.subTest(key=key, value=value), self.assertRaises(InputError) as refused:
                    make_cut({**of, key: value})
                self.assertEqual(refused.exception.field, key)
        usual = make_cut(big)
        self.assertEqual(
            (usual.angle_deg, usual.offset_mm, usual.edge, usual.paper_mm, usual.kind),
            (90, 0, "seat", 0.1, "cope"),
        )
        make_cut({**STAY, "name": "x" * 60})
        for bad in (
            {"name": "x" * 61},
            {"kind": "mitre", "angle_deg": 180.1, "run_mm": None},
            {"angle_deg": -1},
        ):
            with self.assertRaises(InputError):
                make_cut({**STAY, **bad})

    def test_knife_edge(self) -> None:
        """At r = R the ears run to a knife edge.

        So do those of a branch that stands off to the run's very side. Common practice, no source.
        """
        self.assertTrue(has_knife_edge(make_cut({**STAY, "branch_mm": 50.91})))
        self.assertTrue(has_knife_edge(make_cut({**STAY, "offset_mm": 13})))
        self.assertFalse(has_knife_edge(make_cut({**STAY, "branch_mm": 50.89})))
        self.assertIn(
            "knife edge",
            " ".join(label.text for label in lay_flat(make_cut({**STAY, "branch_mm": 51})).labels),
        )


def cut_at(laid: Flat) -> tuple[tuple[float, float], ...]:
    """The line that is cut."""
    return next(stroke.points for stroke in laid.strokes if stroke.layer == "cut")


class Laid(unittest.TestCase):
    def test_quarters_waste_and_name(self) -> None:
        cut = make_cut({**STAY, "name": "Stay"})
        laid, (low, high) = lay_flat(cut), ends_mm(cut)
        quarters = sorted(
            {stroke.points[0][0] for stroke in laid.strokes if stroke.layer == "quarter"}
        )
        self.assertEqual(len(quarters), 5)
        for i, x in enumerate(quarters):
            self.assertAlmostEqual(x, i * math.pi * 25.1 / 4, places=9)
        words = [label.text for label in laid.labels]
        # Measured from the straight top edge of the paper.
        edge = next(
            stroke for stroke in laid.strokes if stroke.layer == "edge" and not stroke.dashed
        ).points
        self.assertEqual([y for _, y in edge[1:3]], [laid.box[3]] * 2)
        self.assertEqual(edge[2][0] - edge[1][0], quarters[-1])
        self.assertEqual((edge[0][1], edge[3][1]), (cut_at(laid)[0][1], cut_at(laid)[-1][1]))
        printed_mm = re.search(r"Top edge ([0-9.]+) mm", " ".join(words))[1]
        self.assertAlmostEqual(float(printed_mm), laid.box[3], delta=0.051)
        self.assertIn(f"Long point {low:.1f} mm", " ".join(words))
        self.assertIn("KEEP  Stay", words)
        nameless = [label.text for label in lay_flat(make_cut(STAY)).labels]
        self.assertIn(f"KEEP  {make_cut(STAY).of.label}", nameless)
        waste = next(label for label in laid.labels if label.text == "WASTE")
        self.assertLess(waste.at[1], low)
        for stroke in laid.strokes:
            if stroke.layer == "waste":
                self.assertLessEqual(stroke.points[1][1], stroke.points[0][1])
        self.assertAlmostEqual(laid.box[3], high + COLLAR_MM, places=3)
        self.assertAlmostEqual(
            min(p[1] for s in laid.strokes if s.layer == "quarter" for p in s.points),
            low - BELOW_MM,
            places=3,
        )

    def test_no_fold_line_crosses_a_text(self) -> None:
        for branch, part in ((12.0, "branch"), (25.0, "branch"), (76.0, "branch"), (48.0, "hole")):
            laid = lay_flat(make_cut({**STAY, "branch_mm": branch, "run_mm": 101.6}), part)
            upright = [
                stroke.points
                for stroke in laid.strokes
                if stroke.layer == "quarter" and stroke.points[0][0] == stroke.points[1][0]
            ]
            self.assertTrue(upright)
            for label in laid.labels:
                wide = LETTER * label.size_mm * len(label.text)
                left = label.at[0] - (wide / 2 if label.anchor == "middle" else 0)
                for (x, low), (_, high) in upright:
                    has_room = not left - 0.4 < x < left + wide + 0.4
                    is_apart = high <= label.at[1] or low >= label.at[1] + label.size_mm
                    self.assertTrue(has_room or is_apart, (branch, part, label.text))

    def test_parts_of_a_cut(self) -> None:
        with self.assertRaisesRegex(UnknownName, "branch"):
            lay_flat(make_cut(STAY), "lid")

    def test_text_in_both_unit_systems(self) -> None:
        cut = make_cut({"branch_mm": 25.4, "wall_mm": 1.65, "run_mm": 50.8})
        self.assertEqual(describe_cut(cut), "25.4 × 1.65 mm on 50.8 mm at 90°, cut along the seat")
        self.assertIn("on 2 in at 90°", describe_cut(cut, "in"))

    def test_no_hole_with_a_mitre(self) -> None:
        with self.assertRaises(InputError):
            lay_flat(
                make_cut({"kind": "mitre", "branch_mm": 25, "wall_mm": 1.2, "angle_deg": 90}),
                "hole",
            )


class Frame(unittest.TestCase):
    def test_a_square_branch_between_two_runs(self) -> None:
        """Between two runs of 50, square: the long points are √(25² − 12.5²) from their axes.

        By hand.
        """
        one = make_member(
            {
                "diameter_mm": 25,
                "wall_mm": 1.2,
                "centre_mm": 500,
                "start": "cope 50 at 90",
                "end": "cope 50",
            }
        )
        # by the seat the ears are those of the bore, 11.3 in radius
        self.assertAlmostEqual(one.blank_mm, 500 - 2 * math.sqrt(25**2 - 11.3**2), places=3)
        self.assertAlmostEqual(one.short_mm, 500 - 2 * 25, places=6)

    def test_a_mitred_corner(self) -> None:
        """A square corner of 40 mm tube: the long point is 20 mm beyond the crossing of the axes.

        Calculated manually.
        """
        one = make_member(
            {
                "diameter_mm": 40,
                "wall_mm": 2,
                "centre_mm": 300,
                "start": "mitre 90",
                "end": "square",
                "count": 4,
            }
        )
        self.assertAlmostEqual(one.blank_mm, 300 + 18, places=6)
        self.assertAlmostEqual(one.short_mm, 300 - 20, places=6)
        self.assertAlmostEqual(sum_stock([one])[0].length_mm, 4 * (318 + KERF_MM), places=6)

    def test_ends_as_people_write_them(self) -> None:
        for text, kept in (
            ("cope 51 at 45", "cope 51 mm at 45"),
            ("Cope 2 in at 45° offset -3", "cope 50.8 mm at 45 offset -3 mm"),
            ("mitre", "mitre at 90"),
            ("plate at 60", "plate at 60"),
            ("plate 60", "plate at 60"),
            ("", "square"),
            ("cope 51 @ 30", "cope 51 mm at 30"),
        ):
            with self.subTest(text=text):
                self.assertEqual(end_text(read_end(text, 25, 1.2)), kept)
                self.assertEqual(end_text(read_end(kept, 25, 1.2)), kept)
        self.assertEqual(read_end("cope 2 at 45", 25, 1.2, units="in").run_mm, 50.8)
        # 80 characters, 81
        self.assertEqual(read_end(f"cope 51.{'0' * 33} at 45.{'0' * 32}", 25, 1.2).angle_deg, 45)
        with self.assertRaisesRegex(InputError, "is not a kind of end cut"):
            read_end(f"cope 51.{'0' * 33} at 45.{'0' * 33}", 25, 1.2)
        for text in (
            "coped",
            "cope",
            "cope 51 at 10",
            "cope 20",
            "mitre 30",
            "cope 51 at 45 offset 20",
            "x" * 200,
        ):
            with self.subTest(text=text), self.assertRaises(InputError):
                read_end(text, 25, 1.2)

    def test_too_short_for_its_cuts(self) -> None:
        for centre, fits in ((50.1, True), (50.0, False)):
            data = {
                "diameter_mm": 25,
                "wall_mm": 1.2,
                "centre_mm": centre,
                "start": "cope 50",
                "end": "cope 50",
            }
            if fits:
                make_member(data)
            else:
                with self.assertRaises(InputError):
                    make_member(data)

    def test_limits_of_a_member(self) -> None:
        good = {"diameter_mm": 25, "wall_mm": 1.2, "centre_mm": 500}
        for key, low, high, of in (
            ("diameter_mm", 3, 1000, {"wall_mm": 1}),
            ("wall_mm", 0.2, 100, {"diameter_mm": 900}),
            ("centre_mm", 1, 20_000, {}),
            ("count", 1, 1000, {}),
        ):
            for value in (low, high):
                make_member({**good, **of, key: value})
            for value in (low - (1 if key == "count" else 0.01), high + 1):
                with self.subTest(key=key, value=value), self.assertRaises(InputError):
                    make_member({**good, **of, key: value})
        self.assertEqual(make_member(good).count, 1)
        for bad in (
            {"count": 1.5},
            {"wall_mm": 12.6},
            {"start": "cope 51 at 10"},
            {"name": "x" * 61},
        ):
            with self.subTest(bad=bad), self.assertRaises(InputError):
                make_member({**good, **bad})

    def test_shims(self) -> None:
        """Shim = (largest − this) / 2. Common practice, no source."""
        self.assertEqual(
            shims_mm(read_diameters("51, 25 mm, 1 1/2 in")), [0.0, 13.0, (51 - 38.1) / 2]
        )
        for text in ("51, wide", "0.9 mm", "3001 mm", ", ".join(["25"] * 61)):
            with self.assertRaises(InputError):
                read_diameters(text)
        self.assertEqual(read_diameters("1 mm; 3000 mm"), [1, 3000])
