"""Plans of the complete matrix of joints, checked against themselves.

No contradictions, no jumps, an answer for every caution. `CONTRADICTIONS` has the checks of every
plan, pair by pair. Their figures are the rules of the trade (common practice and estimates),
entered manually.
"""

import collections
import itertools
import re
import unittest
from collections.abc import Callable, Iterator
from random import Random
from typing import Any

from msgspec import Struct

from tests.core.plan.contradictions import (
    CONTRADICTIONS,
    PAIRS,
    SUBJECTS,
    find_aims,
    list_contradicted,
    list_sentences,
)
from tests.samples import codes
from tests.untraced import Untraced, untraced
from wisearc.core import catalogue
from wisearc.core.errors import InputError
from wisearc.core.joint.data import joint_data, make_joint
from wisearc.core.joint.joint import Joint
from wisearc.core.plan.plan import Plan, list_declared_figures, make_plan
from wisearc.core.schema.figures import list_figures
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.link import link_query, read_link
from wisearc.formats.plan_lines import plan_lines

METALS, KINDS = list(catalogue.load_metals()), catalogue.load_joint_kinds()
SERVICES = ("dry", "wet", "food", "hot", "structural")


def data(kind: str, a: str, b: str, t: float, u: float, **more: Any) -> dict[str, Any]:
    """A joint's data of a kind, two metals and two thicknesses.

    Tubes are welded all round, of 25 mm on 51 mm.
    """
    forms = KINDS[kind].forms
    members: list[dict[str, Any]] = [
        {"metal": a, "thickness_mm": t},
        {"metal": b, "thickness_mm": u},
    ]
    if forms == "stud":
        members[1] |= {"form": "rod", "thickness_mm": max(0.8, u)}
    elif forms != "sheet":
        members[0] |= {"form": "tube", "diameter_mm": 25.0}
        members[1] |= (
            {"form": "flange"}
            if forms == "tube-plate"
            else {"form": "tube", "diameter_mm": 51.0 if KINDS[kind].has("cope") else 25.0}
        )
        more = {"length": "all-round", **more}
    return {"joint": kind, "members": members, **more}


def matrix() -> Iterator[dict[str, Any]]:
    """Metals by joints; thickness by service and finish; backs; positions."""
    pairs = list(itertools.combinations_with_replacement(METALS, 2))
    for i, kind in enumerate(KINDS):
        yield from (data(kind, a, b, 1.5, 1.5) for a, b in pairs)
        for j, (t, r, service, finish) in enumerate(
            itertools.product((0.5, 0.8, 1.2, 1.6, 2.4, 3.2), (1, 1.7), SERVICES, ("show", "sound"))
        ):
            a, b = (
                ("304L", "304L"),
                ("316L", "mild-steel"),
                ("2205", "2205"),
                ("439", "304L"),
                ("4130", "4130"),
                ("310S", "310S"),
                ("430", "430"),
            )[(i + j) % 7]
            yield data(kind, a, b, t, t * r, service=service, finish=finish)
        for back, metal, t in itertools.product(
            ("open", "purge", "copper-bar", "flux"), ("304L", "2205"), (0.8, 2.2)
        ):
            yield data(kind, metal, metal, t, t, back=back)
        for position, t, long in itertools.product(
            catalogue.load_positions(), (0.8, 2.4), (120.0, 400.0)
        ):
            if position != "fixed-tube" or KINDS[kind].forms not in ("sheet", "stud"):
                yield data(
                    kind,
                    "304L",
                    "304L",
                    t,
                    t,
                    position=position,
                    **({"length_mm": long} if KINDS[kind].forms == "sheet" else {}),
                )


def answered(joint: Joint, sets: dict[str, Any]) -> Joint:
    """Return a joint after the advice of a caution, by its link as a page uses it."""
    query = dict(link_query(joint_data(joint)))
    for key, value in sets.items():
        query.pop(key, None)
        if value is not None:
            query[key] = str(value)
    changed, problems = read_link(query.items())
    assert not problems, (sets, problems)
    return changed


def more_joints(count: int) -> Iterator[dict[str, Any]]:
    """Random joints with gaps, manual answers, approaches, machines, positions and rods."""
    rng, rods = Random(30), [*catalogue.load_rods(), "auto", "none"]
    for _ in range(count):
        kind = rng.choice(list(KINDS))
        t = rng.choice((0.5, 0.8, 1.0, 1.2, 1.5, 2.0, 2.5, 3.0))
        u = t * rng.choice((1.0, 1.0, 1.3, 2.0, 3.0))
        more: dict[str, Any] = {
            "service": rng.choice(SERVICES),
            "finish": rng.choice(("show", "sound")),
            "control": rng.choice(("pedal", "none")),
            "tack_school": rng.choice(("held", "burst")),
            "pulse": rng.choice(("auto", "none", *catalogue.load_pulse_patterns())),
            "back": rng.choice(("auto", "auto", "open", "copper-bar", "purge")),
            "filler": rng.choice(rods if rng.random() < 0.3 else ["auto"]),
        }
        if KINDS[kind].forms == "sheet":
            more["length_mm"] = rng.choice((60.0, 150.0, 380.0))
            more["gap_mm"] = rng.choice((0.0, 0.0, 0.2 * t))
        yield data(kind, rng.choice(METALS), rng.choice(METALS), t, u, **more)


THE_SHOPS = {"torch-overrun", "machine-too-small"}
_TWICE = re.compile(
    r"([0-9.]+ mm) is (?:over|past|under) (?:the )?\1|\b1"
    r" (?:lengths|rods|tacks|runs)\b|\{\w+\}|None"
)


def read_valid(joints: Iterator[dict[str, Any]]) -> Iterator[Joint]:
    """Return the joints that can be, of some data."""
    for joint in joints:
        try:
            yield make_joint(joint)
        except InputError:
            continue


class Matrix(Untraced):
    @classmethod
    def setUpClass(cls) -> None:
        with untraced():
            cls.planned = [(j, make_plan(j, ASSUMED)) for j in map(make_joint, matrix())]

    def test_nothing_contradicts(self) -> None:
        self.assertGreater(len(self.planned), 3000)
        for name, holds in CONTRADICTIONS.items():
            with self.subTest(what=name):
                bad = [j for j, p in self.planned if not holds(j, p)]
                self.assertEqual(
                    [
                        (
                            j.kind.key,
                            [m.key for m in j.metals],
                            [m.thickness_mm for m in j.members],
                            j.service,
                            j.finish,
                            j.back,
                            j.position.key,
                        )
                        for j in bad[:2]
                    ],
                    [],
                    len(bad),
                )

    def test_no_two_sentences_contradict(self) -> None:
        """5,000 plans: no sentence of a plan contradicts a fact or a caution of it."""
        more = [(j, make_plan(j, ASSUMED)) for j in read_valid(more_joints(1500))]
        planned = [*self.planned, *more]
        self.assertGreater(len(planned), 5000)
        found: dict[str, collections.Counter[str]] = collections.defaultdict(collections.Counter)
        used: collections.Counter[str] = collections.Counter()
        for j, p in planned:
            texts = list_sentences(p)
            self.assertLessEqual(len({aim for text in texts for aim in find_aims(text)}), 1)
            for name, (applies, _) in PAIRS.items():
                if applies(j, p):
                    used[name] += 1
                    found[name].update(t for t in texts if name in list_contradicted(t))
        for name in PAIRS:
            with self.subTest(fact=name):
                self.assertGreater(used[name], 50)
                self.assertEqual(found[name].most_common(2), [])

    def test_no_caution_appears_in_over_a_third_of_its_cases(self) -> None:
        fired, could = collections.Counter(), collections.Counter()
        for _, p in self.planned:
            fired.update(codes(p, "caution", "stop"))
        for code in fired:
            could[code] = sum(SUBJECTS.get(code, lambda j: True)(j) for j, _ in self.planned)
            with self.subTest(code=code):
                self.assertLessEqual(fired[code], could[code] / 3)
        self.assertGreater(len(fired), 10)

    def test_every_caution_disappears_when_its_advice_is_followed(self) -> None:
        """One of each code at each joint: its keys taken, planned again, gone."""
        seen: set[tuple[str, str]] = set()
        for j, p in self.planned:
            for c in p.cautions:
                if c.level == "note" or c.code in THE_SHOPS or (c.code, j.kind.key) in seen:
                    continue
                seen.add((c.code, j.kind.key))
                with self.subTest(code=c.code, joint=j.kind.key, sets=c.sets):
                    self.assertTrue(c.sets and c.mend)
                    after = make_plan(answered(j, c.sets), ASSUMED)
                    self.assertNotIn(
                        (c.code, c.at),
                        {(x.code, x.at) for x in after.cautions if x.level != "note"},
                    )
        self.assertGreater(len(seen), 40)

    def test_texts(self) -> None:
        """No repeated or excess figures, no unfilled braces.

        In inches no unmarked millimetres.
        """
        for j, p in self.planned[::5]:
            texts = [line.what + " " + line.detail for line in plan_lines(p)] + [
                c.sentence.text() for c in p.cautions
            ]
            texts += [r.sentence.text() for choice in p.choices for r in choice.why] + [
                r.sentence.text() for r in p.after
            ]
            for text in texts:
                self.assertIsNone(_TWICE.search(text), (j.kind.key, text))


# If one of these changes, figures follow in steps: stock, approaches and integers.
STEPS = (
    "filler.rod",
    "filler.diameter_mm",
    "filler.rods",
    "tungsten.diameter_mm",
    "tungsten.included_angle_deg",
    "tungsten.tip_flat_mm",
    "torch.cup",
    "torch.front_end",
    "pulse.school",
    "back.cover",
    "back.bar_lengths",
    "back.purge.preflow_l_min",
    "tacks.count",
    "gas.starts",
    "slopes.up_s",
)
# The remainder of two others: its size has no meaning.
REMAINDERS = {
    "torch.uncovered_mm": "torch.cover_mm",
    "torch.tail_uncovered_mm": "torch.cover_mm",
    # It starts at zero where the mean of a small part reaches the limit.
    "heat.interpass_wait_s": "heat.interpass_c",
    "back.back_c": "heat.hot_c",
    "weld_metal.martensite_start_c": "heat.hot_c",
}

# a formula ends at its window
WINDOWS = {"weld_metal.martensite_start_c", "weld_metal.ferrite_pct"}


def flat(p: Plan) -> dict[str, Any]:
    """Every figure of a plan, by choice and key."""
    found: dict[str, Any] = {}
    for d in list_declared_figures():
        value, key = d.of(p), f"{d.choice.part}.{d.key}"
        if isinstance(value, Struct):
            found |= {
                f"{key}.{inner}": getattr(value, inner) for inner in list_figures(type(value))
            }
        else:
            found[key] = value
    return found


class Continuity(Untraced):
    """A step of 1 % in an input changes no figure by more than 10 %.

    Exceptions are a stock size, an approach or an integer.
    """

    def walk(
        self, base: dict[str, Any], step: Callable[[dict[str, Any], float], dict[str, Any]], n: int
    ) -> None:
        before: dict[str, Any] | None = None
        for i in range(n):
            given = step(base, 1.01**i)
            now = flat(make_plan(make_joint(given), ASSUMED))
            if before is not None and all(before.get(k) == now.get(k) for k in STEPS):
                for key, value in now.items():
                    old = before[key]
                    if isinstance(value, bool | str | tuple) or (value is None and old is None):
                        continue
                    if key in WINDOWS and (value is None or old is None):
                        continue
                    self.assertFalse(value is None or old is None, (key, given))
                    size = max(
                        abs(value), abs(old), now[REMAINDERS[key]] if key in REMAINDERS else 0
                    )
                    # Ferrite, in %, is steep where the thickness decides what melts.
                    slack = 0.3 if key == "weld_metal.ferrite_pct" else 0.06
                    self.assertLessEqual(
                        abs(value - old), 0.1 * size + slack, (key, old, value, given)
                    )
            before = now

    def test_thickness(self) -> None:
        def both(base: dict[str, Any], f: float) -> dict[str, Any]:
            return {
                **base,
                "members": [{**m, "thickness_mm": m["thickness_mm"] * f} for m in base["members"]],
            }

        def second(base: dict[str, Any], f: float) -> dict[str, Any]:
            a, b = base["members"]
            return {**base, "members": [a, {**b, "thickness_mm": b["thickness_mm"] * f}]}

        for kind in KINDS:
            for i, (a, b) in enumerate(
                (("304L", "304L"), ("316L", "mild-steel"), ("2205", "2205"))
            ):
                turn = i + list(KINDS).index(kind)
                # of each kind two of the three pairs, one by both members, one by the second
                if turn % 3 == 2:
                    continue
                if turn % 3 == 0:
                    # a quarter of the range by turns
                    low = (0.6, 1.4, 0.9, 2.1)[list(KINDS).index(kind) % 4]
                    self.walk(data(kind, a, b, low, 1.3 * low, gap_mm=0.05), both, 44)
                else:
                    self.walk(
                        data(kind, a, b, 1.0, (1.0, 2.1)[list(KINDS).index(kind) % 2]), second, 76
                    )

    def test_the_other_numbers(self) -> None:
        def of(key: str, start: float) -> Callable[[dict[str, Any], float], dict[str, Any]]:
            return lambda base, f: {**base, key: start * f}

        def across(base: dict[str, Any], f: float) -> dict[str, Any]:
            return {
                **base,
                "members": [
                    {**m, "diameter_mm": m["diameter_mm"] * f} if "diameter_mm" in m else m
                    for m in base["members"]
                ],
            }

        corner, tee, cope = (
            data("outside-corner", "304L", "304L", 1.2, 1.2),
            data("tee", "304L", "mild-steel", 1.5, 1.5),
            data("tube-cope", "316L", "316L", 1.2, 1.5),
        )
        for base, key, start, n in (
            (corner, "length_mm", 60.0, 150),
            (tee, "length_mm", 60.0, 90),
            (corner, "travel_mm_s", 2.0, 90),
            (tee, "travel_mm_s", 1.2, 90),
            (tee, "angle_deg", 40.0, 80),
            (cope, "angle_deg", 31.0, 100),
            (corner, "reach_mm", 4.0, 160),
            (tee, "leg_mm", 1.0, 110),
            (cope, "purge_length_mm", 100.0, 90),
            (corner, "gap_mm", 0.06, 100),
            (tee, "opening_deg", 40.0, 100),
            (corner, "part_mass_g", 60.0, 60),
        ):
            with self.subTest(joint=base["joint"], key=key):
                self.walk(base, of(key, start), n)
        for base in (cope, data("tube-butt", "304L", "304L", 1.5, 1.5)):
            self.walk(base, across, 110)

    def test_no_cliff_of_the_reach(self) -> None:
        """What 15 and 16 mm of reach ask differs by a cup at most, and the flow with it.

        It does not jump to the widest cup.
        """
        cups = [
            make_plan(
                make_joint(data("butt", "304L", "304L", 1.5, 1.5, reach_mm=r)), ASSUMED
            ).torch.cup
            for r in (11, 13, 14.8, 15, 15.2, 16, 17, 18)
        ]
        self.assertEqual(cups, [8, 10, 10, 12, 12, 12, 12, 12])


if __name__ == "__main__":
    unittest.main()
