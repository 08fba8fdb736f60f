"""Files of a job: keys, limits and errors."""

import unittest
from typing import Any

from tests.jobs import RIM, job, seam
from wisearc.core.errors import InputError
from wisearc.core.jobs.cut_list import cut_text, hole_text, read_cuts, read_holes, sum_materials
from wisearc.core.jobs.job import MAX_SEAMS
from wisearc.core.jobs.job_data import job_data, make_job


class Data(unittest.TestCase):
    def refused(self, data: dict[str, Any]) -> str:
        with self.assertRaises(InputError) as caught:
            make_job(data)
        return str(caught.exception)

    def test_there_and_back(self) -> None:
        data = job(
            seam("c1", side="left", after=["c2"], free_mm=80.0),
            seam("c2", RIM, hides=["c3"], seen=False),
            seam("c3", procedure="P-0001 A", joint=None) | {"joint": None},
            quantity=3,
            first="c3",
            order=["c3", "c2", "c1"],
            about={
                "a": {
                    "note": "bent",
                    "cuts": [{"count": 2, "what": "sheet 1.2", "length_mm": 380, "width_mm": 120}],
                    "holes": [{"diameter_mm": 6.5, "x_mm": 12, "y_mm": -3}],
                    "at": [0, 0, 30, 20],
                }
            },
            times={"dial_s": 20},
            balance_s=0,
        )
        made = make_job(data)
        self.assertEqual(make_job(job_data(made)), made)
        self.assertEqual(
            (made.times.dial_s, made.times.torch_s, made.seams[0].after, made.seams[2].procedure),
            (20, 180, ("c2",), "P-0001 A"),
        )

    def test_circles_are_named_by_their_seams(self) -> None:
        said = self.refused(
            job(seam("a1", after=["a3"]), seam("a2", after=["a1"]), seam("a3", hides=["a2"]))
        )
        self.assertIn("a1 before a2 before a3 before a1", said)
        self.assertIn("hides itself", self.refused(job(seam("a1", hides=["a1"]))))
        self.assertIn("comes after itself", self.refused(job(seam("a1", after=["a1"]))))
        self.assertIn("pins", self.refused(job(seam("a1"), seam("a2", after=["a1"]), first="a2")))

    def test_limit_of_a_thousand_is_reported(self) -> None:
        said = self.refused(job(*(seam(f"s{i}") for i in range(1000))))
        self.assertIn("1000 seams", said)
        self.assertIn("sub-assembly", said)
        self.assertEqual(
            len(make_job(job(*(seam(f"s{i}") for i in range(MAX_SEAMS)))).seams), MAX_SEAMS
        )

    def test_as_long_as_each_text_may_be(self) -> None:
        def at(long: int) -> list[dict[str, Any]]:
            one = seam("c1")
            return [
                {**job(seam("k" * long)), "of": 24},
                {**job(seam("c1", joins=("a", "p" * long))), "of": 40},
                {**job({**one, "title": "t" * long}), "of": 120},
                {**job({**one, "face": "f" * long}), "of": 24},
                {**job(one), "about": {"a": {"note": "n" * long}}, "of": 400},
                {**job(one), "title": "t" * long, "of": 120},
            ]

        for long in (24, 25, 40, 41, 120, 121, 400, 401):
            for i, data in enumerate(at(long)):
                most = data.pop("of")
                with self.subTest(long=long, which=i):
                    if long <= most:
                        make_job(data)
                    else:
                        self.assertIn(str(most), self.refused(data))

    def test_place_within_the_drawing(self) -> None:
        for place, taken in (
            ([0, 100, 2, 100], True),
            ([-0.1, 0, 2, 2], False),
            ([0, 100.1, 2, 2], False),
            ([0, 0, 1.9, 2], False),
            ([0, 0, 2, 100.1], False),
            ([0, 0, 2], False),
        ):
            data = job(seam("c1"), about={"a": {"at": place}})
            with self.subTest(place=place):
                if taken:
                    self.assertEqual(make_job(data).about["a"].at, tuple(place))
                else:
                    self.assertIn("about", self.refused(data))

    def test_maximum_length(self) -> None:
        for mm, taken in ((20_000, True), (20_001, False)):
            cut = {"count": 1, "what": "tube", "length_mm": mm}
            data = job(seam("c1"), about={"a": {"cuts": [cut]}})
            with self.subTest(mm=mm):
                if taken:
                    make_job(data)
                else:
                    self.assertIn("20000", self.refused(data).replace(" ", "").replace(",", ""))

    def test_each_refusal_names_its_key(self) -> None:
        for change, words in (
            ({"key": ""}, "seams[0].key"),
            ({"key": "a b"}, "one word"),
            ({"key": "a,b"}, "comma"),
            ({"joins": []}, "seams[0].joins"),
            ({"joins": ["nowhere"]}, "nowhere"),
            ({"side": "up"}, "seams[0].side"),
            ({"joint": None}, "seams[0].joint"),
            ({"procedure": "P-0001"}, "exclude each other"),
            ({"after": ["zz"]}, "seams[0].after"),
            ({"free_mm": 1}, "seams[0].free_mm"),
            ({"seen": "yes"}, "seams[0].seen"),
            ({"joint": {"joint": "tee"}}, "seams[0].joint.members"),
            ({"colour": 1}, "colour"),
            ({"face": 3}, "seams[0].face"),
        ):
            data = job(seam("c1"))
            data["seams"][0] |= change
            self.assertIn(words, self.refused(data), change)
        for change, words in (
            ({"quantity": 0}, "quantity"),
            ({"quantity": 1.5}, "whole"),
            ({"parts": ["a", "a"]}, "twice"),
            ({"parts": ["a", ""]}, "name"),
            ({"order": ["c1", "c1"]}, "order"),
            ({"first": "x"}, "first"),
            ({"times": {"dial_s": -1}}, "dial_s"),
            ({"balance_s": "much"}, "balance_s"),
            ({"about": {"z": {}}}, "about"),
            ({"about": {"a": {"at": [1, 2]}}}, "about.a.at"),
            ({"zz": 1}, "zz"),
            ({"seams": [seam("c1"), seam("c1")]}, "is also the key of seams[0]"),
        ):
            self.assertIn(
                words, self.refused({**job(seam("c1")), "parts": ["a", "b"], **change}), change
            )

    def test_an_order_names_every_seam_once(self) -> None:
        data = {**job(seam("c1"), seam("c2")), "parts": ["a", "b"]}
        self.assertEqual(make_job({**data, "order": ["c2", "c1"]}).order, ("c2", "c1"))
        for order in (["c1"], ["c1", "c1"], ["c1", "c2", "c1"]):
            with self.subTest(order=order), self.assertRaises(InputError):
                make_job({**data, "order": order})

    def test_cut_lists(self) -> None:
        cuts = read_cuts("2 x sheet 1.2, 380 x 120\ntube 25 × 1.2, 620 mm", "mm")
        self.assertEqual(
            [(c.count, c.what, c.length_mm, c.width_mm) for c in cuts],
            [(2, "sheet 1.2", 380, 120), (1, "tube 25 × 1.2", 620, None)],
        )
        self.assertEqual(read_cuts("\n".join(cut_text(c, "in") for c in cuts), "in")[1].count, 1)
        holes = read_holes("6.5 at 12, 20\n1/4 in @ -1 in, 2 in", "mm")
        self.assertEqual([(h.x_mm, h.y_mm) for h in holes], [(12, 20), (-25.4, 50.8)])
        self.assertEqual(read_holes(hole_text(holes[1], "mm"), "mm")[0].x_mm, -25.4)
        for read, text in (
            (read_cuts, "a sheet"),
            (read_cuts, "2 x sheet, wide"),
            (read_holes, "6.5 here"),
            (read_holes, "6.5 at 1"),
        ):
            with self.assertRaises(InputError) as caught:
                read("\n" + text, "mm")
            self.assertIn("line 2", str(caught.exception))
        for read, line in ((read_cuts, "sheet 1.2, 380 x 120"), (read_holes, "6.5 at 12, 20")):
            self.assertEqual(len(read("\n".join([line, ""] * 60), "mm")), 60)
            with self.assertRaisesRegex(InputError, "must be at most 60"):
                read("\n".join([line] * 61), "mm")
        data = job(
            seam("c1"),
            quantity=3,
            about={
                "a": {"cuts": [{"count": 2, "what": "sheet", "length_mm": 100, "width_mm": 10}]},
                "b": {"cuts": [{"count": 1, "what": "sheet", "length_mm": 50, "width_mm": 10}]},
            },
        )
        total = sum_materials(make_job(data))[0]
        self.assertEqual((total.count, total.length_mm, total.area_mm2), (9, 750, 7500))


if __name__ == "__main__":
    unittest.main()
