"""The steps to add a thing.

A section is a folder; a drawing, a choice and a joint field are in the documented files only.
`tests/core/test_traits.py` shows that a metal is only a row: it adds and plans one of every group.
"""

import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import unittest
from functools import cache
from pathlib import Path
from typing import Any
from unittest import mock

import wisearc
from tests.altered import altered
from tests.compiled import shared_routes
from tests.samples import EVERY, run, typed
from tests.web.case import WebCase
from wisearc import web
from wisearc.core import catalogue
from wisearc.core.catalogue import CatalogueError
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.causes import rank
from wisearc.core.diagnosis.signs import SignStrength, list_signs
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.joint import Joint
from wisearc.core.plan.plan import list_choice_kinds, make_plan
from wisearc.core.schema.entries import read_entries
from wisearc.core.shop.shop import Shop
from wisearc.drawings.plan.views import VIEWS
from wisearc.drawings.runs.faults import draw_fault
from wisearc.web.navigation import list_sections

HOUSE = Path(wisearc.__file__).parent
# The folders of the choices.
CHOICES = tuple(f"core/plan/{p.name}/" for p in (HOUSE / "core" / "plan").iterdir() if p.is_dir())
# The upgrade of a plan of the first version names the parts of that time.
OLD = {"formats/upgrades/plan_1_0.py", "formats/upgrades/plan_1_5.py"}
# Fields that other code uses: a drawing, a list, a filter, a manual answer or a run.
ASKED_FOR = {
    "joint",
    "length",
    "gap",
    "angle_deg",
    "far_edge",
    "position",
    "title",
    "travel_mm_s",
    "control",
    "filler",
    "reach",
    "pulse",
    "back",
    "leg",
    "service",
}

PLACE = '''
"""A place that was not there before."""
from flask import Blueprint, render_template
from wisearc.web.navigation import Place
blueprint = Blueprint("bench", __name__, url_prefix="/bench", template_folder="templates")
@blueprint.get("/")
def index():
    return render_template("bench/index.html")
PLACE = Place(blueprint, "bench.index", "Bench", "b", 30, tint="plum")
'''
PAGE = (
    '{% extends "base.html" %}{% set place = "bench" %}{% block main %}<h1>At the bench</h1>{%'
    " endblock %}"
)


def naming(pattern: str, *kinds: str) -> set[str]:
    """Return the files of the project that contain a pattern, by path."""
    found = re.compile(pattern)
    return {
        str(p.relative_to(HOUSE))
        for kind in kinds or ("*.py", "*.html", "*.js")
        for p, text in read_files(kind).items()
        if found.search(text)
    } - OLD


@cache
def read_files(kind: str) -> dict[Path, str]:
    """Return the texts of the project by file, for a pattern of names."""
    return {p: p.read_text(encoding="utf-8") for p in HOUSE.rglob(kind) if "vendor" not in p.parts}


class APlace(WebCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        place = Path(folder.name) / "bench"
        (place / "templates" / "bench").mkdir(parents=True)
        (place / "__init__.py").write_text(PLACE, encoding="utf-8")
        (place / "templates" / "bench" / "index.html").write_text(PAGE, encoding="utf-8")
        web.__path__.append(folder.name)
        self.addCleanup(web.__path__.remove, folder.name)
        # A module that changes within a second must not be loaded from its bytecode.
        patched = mock.patch.object(sys, "dont_write_bytecode", True)
        patched.start()
        self.addCleanup(patched.stop)
        self.addCleanup(sys.modules.pop, "wisearc.web.bench", None)
        for shared in (list_sections, shared_routes):
            self.addCleanup(shared.cache_clear)
            shared.cache_clear()
        super().setUp()

    def test_is_its_folder(self) -> None:
        page = self.client.get("/bench/").get_data(as_text=True)
        self.assertIn("<h1>At the bench</h1>", page)
        link = (
            '<a href="/bench/" class="place place-bench stage-plum" data-letter="b"'
            ' aria-current="page">'
        )
        self.assertIn(link, page)
        order = [page.index(f'class="place place-{key}') for key in ("plan", "bench", "procedures")]
        self.assertEqual(order, sorted(order))
        self.assertIn("<kbd>b</kbd></dt><dd>open Bench</dd>", page)

    def test_two_by_one_letter_are_refused(self) -> None:
        folder = Path(web.__path__[-1]) / "bench" / "__init__.py"
        folder.write_text(PLACE.replace('"b", 30', '"r", 30'), encoding="utf-8")
        sys.modules.pop("wisearc.web.bench", None)
        list_sections.cache_clear()
        with self.assertRaisesRegex(ValueError, "one letter"):
            list_sections()


class OtherThings(unittest.TestCase):
    def test_a_drawing_stands_in_its_file_and_the_list_of_views(self) -> None:
        for view, (_, draw) in VIEWS.items():
            with self.subTest(view=view):
                own = "/".join(draw.__module__.split(".")[1:]) + ".py"
                found = naming(rf"\b{draw.__name__}\b\(|import .*\b{draw.__name__}\b", "*.py")
                # The thumbnail in the library is the section without labels.
                self.assertEqual(
                    found - {"presenters/procedure_page.py"} if view == "cut" else found,
                    {own, "drawings/plan/views.py"},
                )

    def test_a_choice_stands_in_its_file_and_three_rows_of_the_plan(self) -> None:
        plan = (HOUSE / "core" / "plan" / "plan.py").read_text(encoding="utf-8")
        for kind in list_choice_kinds():
            with self.subTest(choice=kind.__name__):
                found = naming(rf"import .*\b{kind.__name__}\b", "*.py")
                others = {f for f in found if not f.startswith((*CHOICES, "drawings/"))}
                # A choice with a manual answer is in the list of those too.
                self.assertEqual(others - {"core/plan/pins.py"}, {"core/plan/plan.py"})
                module = kind.__module__.rpartition(".")[2]
                call = next(
                    n
                    for n in re.findall(r"import (.*)", plan.partition(f".{module} ")[2])[0].split(
                        ", "
                    )
                    if n[0].islower()
                )
                rows = [
                    r for r in plan.splitlines() if re.search(rf"\b({kind.__name__}|{call})\b", r)
                ]
                self.assertEqual(len(rows), 3, rows)

    def test_a_field_of_the_joint_stands_in_its_table_its_word_and_its_rules(self) -> None:
        plain = [key for key in read_entries(Joint) if key not in ASKED_FOR]
        self.assertGreater(len(plain), 8)
        for key in plain:
            with self.subTest(field=key):
                found = {
                    f
                    for f in naming(rf"\bjoint\.{key}\b|[\"']{key}[\"']")
                    if not f.startswith(CHOICES)
                }
                self.assertLessEqual(
                    found,
                    {
                        "core/joint/joint.py",
                        "core/joint/words.py",
                        "core/joint/phrase.py",
                        "core/joint/rules.py",
                        "core/plan/approaches.py",
                    },
                )


class AFlaw(WebCase):
    """A flaw is in two tables: its text, and its sign among the causes."""

    def add(self, **sign: Any) -> Any:
        def flaw(table: dict[str, Any]) -> None:
            table["flaws"]["worm-track"] = "a worm track under the bead"

        def reading(table: dict[str, Any]) -> None:
            table["signs"]["worm-track"] = {
                "words": "a worm track",
                "absent": "no worm track",
                "flaw": "worm-track",
                **sign,
            }
            table["causes"]["dirty"]["evidence"]["worm-track"] = [9.0, 0.0]

        return altered(flaws=flaw, reading=reading)

    def signs(self, flaws: list[str]) -> dict[str, SignStrength]:
        made = typed({**run(EVERY["butt"]), "faults": flaws})
        return list_signs(Actual(make_plan(make_joint(EVERY["butt"]), Shop()), made, Shop()))

    def weight(self, flaws: list[str]) -> float:
        """Return the probability of dirt, among all causes."""
        told = rank(self.signs(flaws))
        return next((one.weight for one in told if one.cause.key == "dirty"), 0.0)

    def test_is_offered_drawn_read_and_weighed(self) -> None:
        here = self.keep()
        with self.add():
            page = self.client.get(f"{here}/runs").get_data(as_text=True)
            self.assertEqual(page.count("a worm track under the bead"), 1)
            self.assertIn("<svg", draw_fault("worm-track", "a worm track").svg)
            told = [self.signs(flaws)["worm-track"].strength for flaws in (["worm-track"], [])]
            self.assertEqual(told, [1.0, 0.0])
            self.assertGreater(self.weight(["worm-track"]), self.weight([]) + 0.3)
        with self.add(missed=True):
            self.assertIsNone(self.signs([])["worm-track"].strength)

    def test_every_flaw_is_offered_once_and_a_new_one_last(self) -> None:
        groups = catalogue.load_flaw_groups()
        offered = [key for group in groups.values() for key in group]
        self.assertEqual(sorted(offered), sorted(catalogue.load_flaws()))
        with self.add():
            self.assertEqual(list(catalogue.load_flaw_groups()["Others"]), ["worm-track"])

        def spoil(table: dict[str, Any]) -> None:
            table["groups"]["Root"].append("worm")

        with altered(flaws=spoil), self.assertRaisesRegex(CatalogueError, "Root: “worm”"):
            catalogue.load_flaw_groups()

    def test_a_sign_of_a_flaw_that_is_none_is_refused(self) -> None:
        with self.add(flaw="worm"), self.assertRaisesRegex(CatalogueError, "worm.*not in flaws"):
            catalogue.load_signs()


ABOUT_A_LIST = """
import json, tempfile
from pathlib import Path
from wisearc.core.shop.data import make_item, make_shop, shop_data
from wisearc.core.shop.words import format_item
from wisearc.formats.shop_json import csv_text, read_csv, read_shop, write_shop_file
from wisearc.services.inventory import shop
from wisearc.web import create_app

item = make_item("brushes", {"metal": "stainless", "count": 3})
whole = make_shop({"brushes": [{"metal": "stainless", "count": 3}]})
with tempfile.TemporaryDirectory() as folder:
    app = create_app(Path(folder))
    shop.enter(item)
    shop.enter(item)
    pages = [
        app.test_client().get(address).get_data(as_text=True)
        for address in ("/shop/", "/shop/line/brushes")
    ]
    told = shop.load_shop().brushes[0].count
print(json.dumps({
    "words": format_item(item),
    "file": read_shop(json.loads(json.dumps(write_shop_file(whole)))) .brushes == whole.brushes,
    "csv": read_csv(csv_text("brushes", whole)).good[0].item == item,
    "count": told,
    "page": "Brushes" in pages[0] and "a stainless brush" in pages[0],
    "form": 'name="metal"' in pages[1] and 'value="stainless"' in pages[1],
}))
"""
ABOUT_A_PHASE = """
import json, tempfile
from pathlib import Path
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.core.weld_session.course import RunEvent, replay_events, summarise_run
from wisearc.core.weld_session.steps import build_steps
from wisearc.web import create_app

sheet = {"metal": "304L", "thickness": "1.5 mm"}
plan = make_plan(make_joint({"joint": "butt", "members": [sheet, sheet]}), ASSUMED)
score = build_steps(plan, ())
steps = {step.key: step for step in score.steps}
acts, key, at = [], score.steps[0].key, 0.0
while steps[key].keys and len(acts) < 40:
    at += 5.0
    acts.append(RunEvent(f"a{len(acts):08d}", "here", at, key, steps[key].keys[0].key))
    key = steps[key].keys[0].to
course = replay_events(score, acts, 0.0)
with tempfile.TemporaryDirectory() as folder:
    client = create_app(Path(folder)).test_client()
    page = client.get("/weld/at?what=joint=butt").get_data(as_text=True)
print(json.dumps({
    "done": course.done,
    "been": [visit.step for visit in course.visits][-2:],
    "looked": summarise_run(course, at).looked_s,
    "page": "Look it over" in page and ">Look<" in page.replace("\\n", ""),
}))
"""


class InTwoFiles(unittest.TestCase):
    """Additions in a copy of the project by changes of two files only."""

    def told(self, script: str, changes: dict[str, tuple[tuple[str, str], ...]]) -> dict[str, Any]:
        """Return the output of a script in the changed project."""
        self.assertLessEqual(len(changes), 2)
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "wisearc"
            shutil.copytree(HOUSE, copy, ignore=shutil.ignore_patterns("__pycache__"))
            for name, edits in changes.items():
                text = (copy / name).read_text(encoding="utf-8")
                for old, new in edits:
                    self.assertEqual(text.count(old), 1, old)
                    text = text.replace(old, new)
                (copy / name).write_text(text, encoding="utf-8")
            done = subprocess.run(
                [sys.executable, "-W", "ignore", "-c", script],
                cwd=folder,
                env={**os.environ, "PYTHONPATH": folder},
                capture_output=True,
                text=True,
                check=False,
            )
        self.assertEqual(done.returncode, 0, done.stderr[-1500:])
        told: dict[str, Any] = json.loads(done.stdout)
        return told

    def test_a_list_of_the_shop(self) -> None:
        brush = (
            "class Brush(Struct, frozen=True):\n"
            "    metal: Annotated["
            'str, Entry("name", names=list_options(("stainless", "brass")))] = "stainless"\n'
            "    count: Annotated[int, _count()] = 1\n\n\n"
        )
        kinds = "Machine | OwnTorch | Part | TungstenStock | RodStock | Bar | Cylinder"
        listed = (
            '    cylinders: Annotated[tuple[Cylinder, ...] | None, _list(Cylinder, "Cylinders")]'
        )
        last = f"{listed} = None\n"
        row, case = '_list(Brush, "Brushes")', "        case RodStock():\n"
        text_line = '            return f"a {item.metal} brush"\n'
        told = self.told(
            ABOUT_A_LIST,
            {
                "core/shop/shop.py": (
                    (f"Item = {kinds}\n", f"{brush}Item = {kinds} | Brush\n"),
                    (
                        last,
                        f"{last}    brushes: Annotated[tuple[Brush, ...] | None, {row}] = None\n",
                    ),
                ),
                "core/shop/words.py": (
                    ("import CAPS, Bar,", "import CAPS, Bar, Brush,"),
                    (case, f"        case Brush():\n{text_line}{case}"),
                ),
            },
        )
        words = told.pop("words")
        self.assertEqual(words, "a stainless brush")
        self.assertEqual(told.pop("count"), 6)
        self.assertEqual(set(told.values()), {True}, told)

    def test_a_phase_of_the_weld(self) -> None:
        step = (
            'Step("look", "look", Sentence("Look it over."),'
            ' Sentence("Both faces, in good light."),'
            ' (Key("main", "Looked", END),))'
        )
        looked = 'sum(v.lasted_s(now) for v in course.of("look"))'
        told = self.told(
            ABOUT_A_PHASE,
            {
                "core/weld_session/steps.py": (
                    ('    "done": "Done",\n', '    "look": "Look",\n    "done": "Done",\n'),
                    (
                        "RunSteps((*steps, *_build_after(",
                        f"RunSteps((*steps, {step}, *_build_after(",
                    ),
                    (" if plan.heat.interpass_wait_s else END\n", ' if False else "look"\n'),
                ),
                "core/weld_session/course.py": (
                    ("    slow_pools: int\n", "    slow_pools: int\n    looked_s: float = 0.0\n"),
                    (
                        "        arc_s=arc,\n",
                        f"        arc_s=arc,\n        looked_s={looked},\n",
                    ),
                ),
            },
        )
        self.assertEqual(
            told, {"done": True, "been": ["look", "done"], "looked": 5.0, "page": True}
        )


if __name__ == "__main__":
    unittest.main()
