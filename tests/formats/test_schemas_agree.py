"""Schemas and parsers agree on every change of a file.

A general-purpose validator applies the schema, independent of the parsers.
"""

import copy
import json
import random
import re
import unittest
from collections.abc import Callable, Iterator
from typing import Any

from tests.jobs import job, seam
from tests.samples import COPE, EVERY, SHOP, TEE, run, typed
from tests.schemas import follows
from tests.untraced import Untraced
from wisearc.core.errors import InputError
from wisearc.core.joint.data import joint_data, make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.run.verification import build_ranges
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.jobs.job_json import read_job
from wisearc.formats.joint_json import check_head, read_joint, write_joint_file
from wisearc.formats.plan_json import plan_data, read_plan
from wisearc.formats.procedure_json import (
    ProcedureFile,
    read_procedure_file,
    write_procedure_file,
)
from wisearc.formats.run_json import read_record, run_record
from wisearc.formats.shop_json import read_shop

WRONG = (None, "", "x", -1, 0, 1.5, 1e9, True, [], {}, ["x"], {"x": 1})
# Rules that a schema cannot express: dependent keys, a newer minor version, a length as text.
TOGETHER = re.compile(
    r"or neither|with a pulse|must be the number of|must be two or three|at least two points"
    r"|is not consistent|has a conflict|newer"
    r"|the joint of the plan|Give the time of verification|must be null|must total at most"
    r"|must be within its range|good run|differs from the plan|A verifying run needs"
    r"|Nobody checked the root|cannot verify|from the lower limit"
    r"|must be one of |form a circle|Give a joint, or the number|must each have a name"
    r"|name every seam once|one word without|comes after itself|hides itself"
    r"|bands\.\w+ is missing|is too long|is more than this product|is above the maximum"
    r"|appears twice|one of the entries|one size of tungsten|Enter the cup number|has no "
    r"|a name for the|one of the machines|Give one of them|must be a length|belongs to a tube"
    r"|needs its outside diameter"
)
MAX_SAMPLES = 100


LEFT_OUT = object()


def changes(data: Any) -> Iterator[tuple[tuple[Any, ...], Any]]:
    """Yield every change.

    A missing key, a wrong value, an additional key in every object, with its place.
    """
    for path in _paths(data):
        yield from ((path, wrong) for wrong in WRONG)
        if isinstance(path[-1], str):
            yield path, LEFT_OUT
        if isinstance(_at(data, path), dict):
            yield (*path, "zz"), 1


def changed(data: Any, path: tuple[Any, ...], value: Any) -> Any:
    """Return a copy with one change."""
    out = copy.deepcopy(data)
    place = _at(out, path[:-1])
    if value is LEFT_OUT:
        del place[path[-1]]
    else:
        place[path[-1]] = value
    return out


def _paths(data: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Yield the place of every value; of a list the first item only."""
    items = (
        data.items()
        if isinstance(data, dict)
        else enumerate(data[:1])
        if isinstance(data, list)
        else ()
    )
    for key, value in items:
        yield (*at, key)
        yield from _paths(value, (*at, key))


def _at(data: Any, path: tuple[Any, ...]) -> Any:
    for key in path:
        data = data[key]
    return data


class Agree(Untraced):
    def check(self, name: str, data: Any, read: Callable[[Any], Any]) -> None:
        self.assertTrue(follows(name, data))
        read(data)
        plain = json.loads(json.dumps(data))
        every = list(changes(plain))
        for path, value in random.Random(1).sample(every, min(MAX_SAMPLES, len(every))):
            other = changed(plain, path, value)
            follows_it = follows(name, other)
            try:
                read(other)
                problem = ""
            except InputError as error:
                problem = str(error)
            if not TOGETHER.search(problem):
                with self.subTest(path=path, value="left out" if value is LEFT_OUT else value):
                    self.assertEqual(follows_it, not problem, problem)

    def test_joint(self) -> None:
        for kind in EVERY:
            data = joint_data(
                make_joint({**EVERY[kind], "pins": {"cup": 6, "tungsten_type": "ceriated-2"}})
            )
            self.check("joint", write_joint_file(data), read_joint)

    def test_plan(self) -> None:
        self.check("plan", plan_data(make_plan(make_joint(TEE), ASSUMED)), read_plan)

    def test_of_a_shop(self) -> None:
        self.check("shop", SHOP, read_shop)

    def test_job(self) -> None:
        """The joints of a job file have a separate schema.

        No schema expresses the references between seams.
        """
        first = seam("a", side="left", free_mm=80, title="A", hides=["b"], after=[]) | {
            "procedure": "P-0001"
        }
        first.pop("joint")
        more = {
            "about": {
                "a": {
                    "note": "n",
                    "at": [0, 0, 10, 10],
                    "cuts": [{"count": 1, "what": "sheet", "length_mm": 9, "width_mm": 9}],
                    "holes": [{"diameter_mm": 6, "x_mm": 1, "y_mm": 1}],
                }
            },
            "times": {"dial_s": 1, "piece_s": 2},
            "balance_s": 1,
            "first": "b",
            "order": ["b", "a"],
        }
        data = {
            "format": "wisearc/job",
            "version": 1,
            **job(first, seam("b")),
            "quantity": 2,
            **more,
        }
        self.check("job", data, read_job)

    def test_run(self) -> None:
        full = run(
            set={"current_a": 60},
            used={"rod": "none"},
            measured={"bead_mm": 3},
            faults=["undercut"],
            notes="good",
        )

        def read(data: Any) -> None:
            check_head(data, "wisearc/run")
            read_record(data)

        self.check("run", run_record(typed(full), "P-0001", "A"), read)

    def test_procedure(self) -> None:
        joint = make_joint(COPE)
        plan = make_plan(joint, ASSUMED)
        runs = [run_record(typed(run(COPE)), "P-0001", "A")]
        of = ProcedureFile(
            "P-0001",
            "A",
            "proved",
            "",
            write_joint_file(joint_data(joint)),
            plan_data(plan),
            build_ranges(plan),
            runs,
            [],
            None,
            "2026-03-04T16:00:00Z",
        )
        data = write_procedure_file(of)
        self.check("procedure", data, read_procedure_file)


if __name__ == "__main__":
    unittest.main()
