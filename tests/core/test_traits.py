"""Behaviour hangs on traits of the catalogue, never on the name of a metal, rod or joint."""

import ast
import re
import unittest
from pathlib import Path
from typing import Any

import wisearc
from tests.altered import altered, forget
from tests.samples import codes, member, plan, tube
from wisearc.core import catalogue
from wisearc.core.errors import CatalogueError
from wisearc.core.joint.joint import Joint, Member
from wisearc.core.plan.filler_metal.rod_chart import pair_for
from wisearc.core.schema.entries import read_entries
from wisearc.formats.link import read_link

CORE = Path(wisearc.__file__).parent / "core"
CHOICES = sorted((CORE / "plan").glob("*/*.py"))
# Stable caution codes, fixed by the formats: the only names in a rule.
CODES = {"unweldable-303"}

# an invented metal of every group, from a listed one of it
LIKE = {
    "austenitic": "304L",
    "fully-austenitic": "904L",
    "ferritic": "430",
    "duplex": "2205",
    "carbon": "mild-steel",
    "low-alloy": "4130",
    "free-machining": "303",
    "precipitation-hardening": "17-4PH",
}


def invented(**more: Any):
    """Add to metals.toml for every group a metal called new-GROUP, like a listed one."""

    def add(table: dict[str, Any]) -> None:
        rows = table["metals"]
        for group, like in LIKE.items():
            row = {k: v for k, v in rows[like].items() if k != "family"}
            rows[f"new-{group}"] = {**row, "name": f"new {group}", **more}

    return add


def strings(path: Path) -> list[str]:
    """Every string of a file's code, its docstrings aside."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    docs = {
        ast.get_docstring(n, clean=False)
        for n in ast.walk(tree)
        if isinstance(n, ast.Module | ast.FunctionDef | ast.ClassDef)
    }
    return [
        n.value
        for n in ast.walk(tree)
        if isinstance(n, ast.Constant) and isinstance(n.value, str) and n.value not in docs
    ]


class NoNames(unittest.TestCase):
    def test_no_metal_rod_or_joint_stands_in_a_rule(self) -> None:
        names = [
            *catalogue.load_metals(),
            *catalogue.load_rods(),
            *(k for k in catalogue.load_joint_kinds() if "-" in k),
        ]
        word = re.compile(r"(?<![\w-])(" + "|".join(map(re.escape, names)) + r")(?![\w-])")
        for path in [
            *CHOICES,
            CORE / "joint/section.py",
            CORE / "plan/plan.py",
            CORE / "joint/joint.py",
            CORE / "physics/heat.py",
        ]:
            for text in strings(path):
                with self.subTest(file=path.name, text=text):
                    if text not in CODES:
                        self.assertIsNone(word.search(text))

    def test_no_rule_asks_for_a_group_by_its_name(self) -> None:
        for path in CHOICES:
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                sides = [node.left, *node.comparators] if isinstance(node, ast.Compare) else []
                groups = [
                    isinstance(side, ast.Attribute) and side.attr == "group" for side in sides
                ]
                with self.subTest(file=path.name, line=getattr(node, "lineno", 0)):
                    self.assertIn(sum(groups), (0, len(sides)))

    def test_the_scan_finds_one(self) -> None:
        self.assertIn("unweldable-303", [s for p in CHOICES for s in strings(p)])


class Groups(unittest.TestCase):
    """An invented metal behaves like its group, by its row alone."""

    def setUp(self) -> None:
        context = altered(metals=invented())
        context.__enter__()
        self.addCleanup(context.__exit__, None, None, None)

    def test_its_row_is_all_it_takes(self) -> None:
        self.assertIn("new-duplex", read_entries(Member)["metal"].allowed())
        for group in LIKE:
            joint, problems = read_link([("joint", "butt"), ("a.metal", f"new-{group}")])
            self.assertEqual((joint.members[0].metal.key, problems), (f"new-{group}", []))
            self.assertTrue(plan("butt", member(f"new-{group}")).cautions)
        self.assertIn("butt", read_entries(Joint)["joint"].allowed())

    def test_duplex_takes_no_chill(self) -> None:
        new = member("new-duplex")
        self.assertEqual(plan("butt", new).back.cover, "purge")
        self.assertEqual(plan("outside-corner", new, length="300 mm").pulse.school, "none")
        self.assertIn("duplex-needs-filler", codes(plan("edge", new, filler="none"), "stop"))
        found = plan("outside-corner", new, length="300 mm", back="copper-bar", pulse="slow-cold")
        at = {c.at for c in found.cautions if c.code == "chill-on-duplex"}
        self.assertEqual(at, {"back", "pulse"})
        self.assertTrue(
            all(
                "new-duplex" in c.sentence.text()
                for c in found.cautions
                if c.code == "chill-on-duplex"
            )
        )
        self.assertIn("duplex-heat-low", codes(plan("butt", member("new-duplex", "1 mm"))))
        self.assertIsNone(plan("butt", new).weld_metal.ferrite_pct)

    def test_fully_austenitic_is_run_cool_and_never_bare(self) -> None:
        new = member("new-fully-austenitic")
        self.assertEqual(plan("butt", new).heat.interpass_c, 100)
        self.assertIn("no-ferrite", codes(plan("edge", new, filler="none"), "stop"))
        self.assertIsNotNone(plan("outside-corner", new).filler.rod)

    def test_crack_prone_is_tapered_slowly(self) -> None:
        for group, slow in (
            ("fully-austenitic", True),
            ("low-alloy", True),
            ("austenitic", False),
            ("ferritic", False),
            ("carbon", False),
        ):
            found = plan("butt", member(f"new-{group}"), control="none")
            with self.subTest(group=group):
                self.assertAlmostEqual(found.slopes.down_s, 5.0 if slow else 2.5)

    def test_sulphur_is_not_for_welding(self) -> None:
        new = member("new-free-machining")
        self.assertIn("unweldable-303", codes(plan("butt", new), "caution"))
        self.assertIn("unweldable-303", codes(plan("butt", new, service="food"), "stop"))

    def test_autogenous_only_for_weldable_groups(self) -> None:
        for group, bare in (
            ("austenitic", True),
            ("ferritic", False),
            ("duplex", False),
            ("precipitation-hardening", False),
            ("free-machining", False),
            ("carbon", False),
        ):
            with self.subTest(group=group):
                self.assertEqual(
                    plan("outside-corner", member(f"new-{group}")).filler.rod is None, bare
                )
        # like 430 it hardens; 439 stays wholly ferritic
        self.assertIsNone(plan("outside-corner", member("439")).filler.rod)

    def test_copper_runs_into_austenitic_alone(self) -> None:
        for group, runs in (
            ("austenitic", True),
            ("fully-austenitic", True),
            ("free-machining", True),
            ("ferritic", False),
            ("carbon", False),
        ):
            found = codes(plan("lap", member(f"new-{group}"), filler="ERCuSi-A"))
            with self.subTest(group=group):
                self.assertEqual("copper-penetration" in found, runs)

    def test_rod_of_its_group(self) -> None:
        """The usual filler charts by group, from memory: as for the listed metal of each."""
        for group, rod in (
            ("austenitic", "ER308L"),
            ("fully-austenitic", "ER385"),
            ("ferritic", "ER309L"),
            ("duplex", "ER2209"),
            ("carbon", "ER70S-2"),
            ("low-alloy", "ER80S-D2"),
            ("free-machining", "ER312"),
            ("precipitation-hardening", "ER630"),
        ):
            metal = catalogue.load_metals()[f"new-{group}"]
            with self.subTest(group=group):
                self.assertEqual(pair_for(metal, metal).first, rod)

    def test_pairs_by_rule(self) -> None:
        metals = catalogue.load_metals()
        for a, b, rod in (
            ("new-duplex", "mild-steel", "ER2209"),
            ("new-austenitic", "mild-steel", "ER309L"),
            ("new-austenitic", "430", "ER309L"),
            ("new-carbon", "4130", "ER70S-2"),
            ("new-free-machining", "304L", "ER312"),
            ("new-austenitic", "316L", "ER316L"),
        ):
            for first, second in ((a, b), (b, a)):
                with self.subTest(a=first, b=second):
                    self.assertEqual(pair_for(metals[first], metals[second]).first, rod)

    def test_molybdenum_asks_for_a_rod_that_does_not_pit_first(self) -> None:
        moly = {"C": 0.02, "Mn": 1.5, "Si": 0.45, "Cr": 17.0, "Ni": 11.0, "Mo": 2.2, "N": 0.05}
        with altered(metals=invented(analysis=moly)):
            metal = catalogue.load_metals()["new-austenitic"]
            self.assertEqual(pair_for(metal, metal).first, "ER316L")


class OwnTraits(unittest.TestCase):
    """A trait in the row of a metal counts like one of its group."""

    def test_each(self) -> None:
        def give(trait: str):
            def change(table: dict[str, Any]) -> None:
                table["metals"]["304L"]["traits"] = [trait]

            return change

        for trait, more, code in (
            ("no_chill", {"back": "copper-bar"}, "chill-on-duplex"),
            ("needs_rod", {"filler": "none"}, "duplex-needs-filler"),
            ("sulphur", {}, "unweldable-303"),
        ):
            self.assertNotIn(code, codes(plan("butt", **more)))
            with altered(metals=give(trait)), self.subTest(trait=trait):
                self.assertIn(code, codes(plan("butt", **more)))
        with altered(metals=give("manganese_fume")):
            self.assertTrue(
                any("manganese from 304L" in c.sentence.text() for c in plan("butt").cautions)
            )
        with altered(metals=give("heat_resisting")):
            self.assertEqual(plan("butt", member("304L"), member("316L")).filler.rod, "ER316L")
            self.assertEqual(plan("butt", member("304L"), member("321")).filler.rod, "ER309L")

    def test_l_grade_has_maximum_0_03_carbon(self) -> None:
        """ASTM A240, from memory."""
        for carbon, told in ((0.03, False), (0.032, True)):

            def change(table: dict[str, Any], carbon: float = carbon) -> None:
                table["metals"]["304L"]["analysis"]["C"] = carbon

            with altered(metals=change), self.subTest(carbon=carbon):
                self.assertEqual("l-grade" in codes(plan("butt", service="wet")), told)

    def test_listed_ones(self) -> None:
        has = {
            t: {k for k, m in catalogue.load_metals().items() if m.has(t)}
            for t in catalogue.TRAITS["metals"]
        }
        self.assertEqual(has["no_chill"], {"2205"})
        self.assertEqual(has["crack_prone"], {"310S", "904L", "4130"})
        self.assertEqual(has["rusts_wet"], {"409", "430"})
        self.assertEqual(has["stabilised"], {"321", "347", "439"})
        self.assertEqual(has["heat_resisting"], {"309S", "310S"})
        self.assertEqual(has["manganese_fume"], {"201"})
        self.assertEqual(has["ferritic"], {"409", "430", "439"})
        self.assertEqual(
            (has["sensitises"], has["long_heat"], has["brittle_hot"]),
            ({"430"}, {"430", "439"}, {"2205"}),
        )
        self.assertEqual((has["hardens"], has["martensitic"]), ({"4130"}, {"17-4PH"}))
        rods = {
            t: {k for k, r in catalogue.load_rods().items() if r.has(t)}
            for t in catalogue.TRAITS["rods"]
        }
        self.assertEqual(
            rods,
            {
                "braze": {"ERCuSi-A"},
                "brittle_hot": {"ER312", "ER2209"},
                "nickel": {"ERNiCr-3"},
                "duplex": {"ER2209"},
                "martensitic": {"ER630"},
                "fully_austenitic": {"ER310", "ER385"},
                "by_design": {"ER2209", "ER430", "ER630", "ERNiCr-3"},
                "butters": {"ER309L"},
            },
        )


class Refused(unittest.TestCase):
    def test_a_trait_that_does_not_exist_is_refused_by_name(self) -> None:
        for name, section, key in (
            ("metals", "metals", "316L"),
            ("groups", "groups", "duplex"),
            ("rods", "rods", "ER312"),
            ("joints", "joints", "butt"),
            ("positions", "positions", "flat"),
            ("pulses", "patterns", "fast"),
            ("backs", "backs", "flux"),
        ):

            def spoil(table: dict[str, Any], section: str = section, key: str = key) -> None:
                table[section][key]["traits"] = ["shiny"]

            words = f"{key}.*“shiny” is not a trait. Use one of"
            with (
                altered(**{name: spoil}),
                self.subTest(table=name),
                self.assertRaisesRegex(CatalogueError, words),
            ):
                catalogue.check_rows()

    def test_a_group_that_does_not_exist(self) -> None:
        def spoil(table: dict[str, Any]) -> None:
            table["metals"]["316L"]["group"] = "shiny"

        with (
            altered(metals=spoil),
            self.assertRaisesRegex(CatalogueError, "316L: “shiny” is not a group"),
        ):
            catalogue.check_rows()

    def test_a_key_too_many(self) -> None:
        def spoil(table: dict[str, Any]) -> None:
            table["joints"]["butt"]["colour"] = "red"

        with altered(joints=spoil), self.assertRaisesRegex(CatalogueError, "joints.toml, butt"):
            catalogue.check_rows()

    def test_own_tables_hold_together(self) -> None:
        catalogue.check_rows()
        forget()
        self.assertTrue(plan("tube-butt", tube()).cautions)


if __name__ == "__main__":
    unittest.main()
