"""Jobs from the command line: the plan, orders, refusals in one clear line."""

import io
import json
import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

from msgspec.structs import asdict

from tests.jobs import generated_job, job, seam
from tests.samples import SHOP
from tests.schemas import check
from tests.test_cli_bench import said
from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import build_work
from wisearc.core.jobs.problem import build_problem
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.jobs.job_plans import plan_seams

EXAMPLES = Path(__file__).resolve().parent.parent / "examples" / "jobs"
HEAD = {"format": "wisearc/job", "version": 1}


class Job(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, data: object, name: str = "job.json") -> str:
        path = self.folder / name
        path.write_text(data if isinstance(data, str) else json.dumps(data), encoding="utf-8")
        return str(path)

    def test_examples(self) -> None:
        for path in EXAMPLES.glob("*.json"):
            check("job", json.loads(path.read_text(encoding="utf-8")))
            code, out, err = said("job", str(path))
            self.assertEqual((code, err), (0, ""))
            plan = json.loads(out)
            check("job-plan", plan)
            items = sum(
                plan[key]
                for key in ("arc_s", "dial_s", "torch_s", "clamp_s", "wait_s", "balance_s")
            )
            self.assertAlmostEqual(items, plan["cost_s"], 2)
            self.assertLessEqual(plan["bound_s"], plan["cost_s"])
            self.assertEqual([s["seam"] for s in plan["steps"]], plan["order"])

    def test_within_a_shop_and_with_a_stop(self) -> None:
        code, out, _ = said(
            "job", self.file({**HEAD, **job(seam("a"))}), "--shop", self.file(SHOP, "shop.json")
        )
        self.assertEqual(code, 0)
        self.assertIsNotNone(json.loads(out)["take"]["bars"][0]["have"])
        after = {**job(seam("a"), seam("b", after=["a"])), "order": ["b", "a"]}
        code, out, _ = said("job", self.file({**HEAD, **after}))
        self.assertEqual((code, json.loads(out)["by_hand"]), (1, True))

    def test_orders(self) -> None:
        data = {**HEAD, **job(seam("a"), seam("b", after=["a"]))}
        code, out, err = said(
            "job",
            self.file(data),
            "--orders",
            self.file("a,b\n\n b , a\na\na,b,zz\n", "orders.txt"),
        )
        rows = [json.loads(line) for line in out.splitlines()]
        self.assertEqual((code, err, len(rows)), (0, "", 4))
        _, out, _ = said("job", self.file(data))
        plan = json.loads(out)
        self.assertEqual(
            {k: v for k, v in rows[0].items() if k != "order"},
            {k: plan[k] for k in rows[0] if k != "order"},
        )
        self.assertEqual(
            [row.get("cannot") for row in rows[1:]],
            ["a must be before b", "b is missing", "zz is not a seam of this job"],
        )

    def test_refused_in_one_line(self) -> None:
        for data, words in (
            (
                {**HEAD, **job(seam("a", after=["b"]), seam("b", after=["a"]))},
                "a before b before a",
            ),
            ({**HEAD, **job(seam("a", hides=["a"]))}, "hides itself"),
            (
                {**HEAD, "parts": ["x"], "seams": [{"key": f"s{i}"} for i in range(1000)]},
                "1000 seams",
            ),
            ({**HEAD, **job(seam("a", procedure="P-0001") | {"joint": None})}, "--data"),
            ("{", "JSON"),
            ({}, "format"),
        ):
            code, out, err = said("job", self.file(data))
            self.assertEqual((code, out, err.count("\n")), (2, "", 1), words)
            self.assertIn(words, err)

    def test_figures_are_searched(self) -> None:
        made = make_job(generated_job(12, 1))
        figures = asdict(build_problem(build_work(made, plan_seams(made, ASSUMED))))
        with patch("sys.stdin") as stdin, patch("os.nice"):
            stdin.buffer = io.BytesIO(json.dumps(figures).encode())
            code, out, _ = said("find-order", "--seconds", "5")
        rows = [json.loads(line) for line in out.splitlines()]
        self.assertEqual((code, rows[-1]["proved"]), (0, True))
        self.assertEqual(sorted(rows[-1]["order"]), list(range(12)))
        with patch("sys.stdin") as stdin, patch("os.nice"):
            for wrong in (
                b"{}",
                json.dumps({**figures, "parts": 3}).encode(),
                json.dumps({**figures, "arc_s": ["x"]}).encode(),
                b"[]",
            ):
                stdin.buffer = io.BytesIO(wrong)
                self.assertEqual(said("find-order")[0], 2, wrong[:40])


if __name__ == "__main__":
    unittest.main()
