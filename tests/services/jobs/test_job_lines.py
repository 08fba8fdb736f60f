"""Seams typed as text, and the rule that a part is closed before others are put on it."""

import unittest
from typing import Any

from wisearc.core.jobs.job import Job
from wisearc.forms.job_lines import parse_lines
from wisearc.services.jobs.job_changes import apply_change, change_data, read_change

EMPTY = Job(title="Made up")
TEXT = """box+lid: 1.5 304 outside corner 380, left
lid+stay-1: 25 x 1.2 316L tube coped 45 deg on 51x1.5 tube, right, hidden

1.5 304 tube 42 to flange 4, all round, joins flange and mast
like s1 but 200 mm
foot+mast: 1.5 304L to 3 mild steel tee 60, bottom up, after s1, in 3 sections “Foot”
nonsense
P-0003
vertical up 1.5 304 butt 100"""


class Lines(unittest.TestCase):
    def parse(self, text: str, job: Job = EMPTY, alike: int = 1) -> list[dict[str, Any]]:
        parsed = parse_lines(text, job, "mm", alike)
        self.assertEqual(parsed.wrong, ())
        assert parsed.change is not None
        return [dict(seam) for seam in parsed.change.seams]

    def test_each_line_is_a_seam_and_wrong_lines_are_left(self) -> None:
        parsed = parse_lines(TEXT, EMPTY, "mm")
        ((wrong),) = parsed.wrong
        self.assertEqual((wrong.number, wrong.text), (7, "nonsense"))
        self.assertIn("not understood", wrong.error)
        self.assertEqual(parsed.left, "nonsense")
        assert parsed.change is not None
        job = apply_change(parsed.change, EMPTY)
        self.assertEqual([s.key for s in job.seams], [f"s{i}" for i in range(1, 8)])
        self.assertEqual(job.parts, ("box", "lid", "stay-1", "flange", "mast", "foot"))
        first, cope, flange, like, foot, kept, upright = job.seams
        self.assertEqual(
            (first.side, first.seen, cope.side, cope.seen), ("left", True, "right", False)
        )
        self.assertEqual(flange.joins, ("flange", "mast"))
        assert like.joint is not None and foot.joint is not None and upright.joint is not None
        self.assertEqual((like.joint.kind.key, like.joint.length.mm), ("outside-corner", 200.0))
        self.assertEqual(
            (foot.face, foot.after, foot.pieces, foot.called), ("bottom", ("s1",), 3, "Foot")
        )
        self.assertEqual((kept.procedure, kept.joint), ("P-0003", None))
        self.assertEqual(upright.joint.position.key, "vertical-up")

    def test_equal_seams(self) -> None:
        self.assertEqual([s["key"] for s in self.parse("1.5 304 lap 40", alike=12)][-1], "s12")
        keys = [s["key"] for s in self.parse("3 off: t7: 1.5 304 lap 40")]
        self.assertEqual(keys, ["t7", "t8", "t9"])
        # A tube size is no count.
        (tube,) = self.parse("25 x 1.2 316L tube in line")
        self.assertEqual(tube["joint"]["joint"], "tube-butt")

    def test_a_key_that_exists_gets_the_next_number(self) -> None:
        job = apply_change(parse_lines("c1: 1.5 304 lap 40", EMPTY, "mm").change, EMPTY)
        self.assertEqual([s["key"] for s in self.parse("c1: like c1", job)], ["c2"])
        parsed = parse_lines("like c9", job, "mm")
        self.assertIn("is no seam of this job", parsed.wrong[0].error)

    def test_a_part_is_closed_before_others_are_put_on_it(self) -> None:
        text = "1.5 304 corner 100, closes box\nbox+stay: 1.5 304 tee 40"
        job = apply_change(parse_lines(text, EMPTY, "mm").change, EMPTY)
        self.assertEqual([s.after for s in job.seams], [(), ("s1",)])
        # A later closing seam precedes what is on the part already, unless its line differs.
        more = "like s1, closes box, after s2"
        later = apply_change(parse_lines(more, job, "mm").change, job)
        self.assertEqual(later.seam("s2").after, ("s1",))
        more = "like s1, closes box"
        later = apply_change(parse_lines(more, job, "mm").change, job)
        self.assertEqual(later.seam("s2").after, ("s1", "s3"))

    def test_the_change_is_saved_as_text(self) -> None:
        change = parse_lines(TEXT, EMPTY, "mm").change
        assert change is not None
        again = read_change(change_data(change))
        self.assertEqual(apply_change(again, EMPTY), apply_change(change, EMPTY))
        self.assertEqual(change.describe(), "7 seams added, s1 to s7")
