"""Choices from the stock, rule by rule.

Equally suitable parts are an estimate; matching parts are common practice, no source.
"""

import math
from typing import Any

from tests.core.rows import Rows, thick
from tests.samples import codes, member, plan, tube
from wisearc.core.physics.gas import contents_l
from wisearc.core.plan.filler_metal.rod_size import can_melt_rod
from wisearc.core.plan.plan import Plan
from wisearc.core.plan.torch.tips import can_carry, choose_tip
from wisearc.core.shop.bench import list_benches
from wisearc.core.shop.data import make_shop


def rods(*some: tuple[str, float, int], **more: Any) -> Plan:
    """Return the plan of a butt of 1.5 mm 304L with rods of a class, size and count in stock."""
    shop = make_shop(
        {"rods": [{"rod": rod, "diameter_mm": d, "count": n, **more} for rod, d, n in some]}
    )
    return plan("butt", shop=shop, length="300 mm")


def back(
    kind: str = "butt", a: Any = None, has: list[str] | None = None, bars: Any = (), **more: Any
) -> str:
    """Return the cover of a joint with these bars and other equipment in stock."""
    shop = make_shop(
        {"bars": [{"metal": metal} for metal in bars], **({} if has is None else {"has": has})}
    )
    return plan(kind, a, shop=shop, **more).back.cover


def machine(**more: Any) -> Any:
    return make_shop({"machines": [{"name": "m", **more}]})


class Filler(Rows):
    def test_thickness_that_a_chill_bar_supports(self) -> None:
        """No thicker than 1.3 of the sheet or 1.6 mm; below 0.8 mm wire alone; thinner always."""
        self.rows(
            (can_melt_rod(1.5, 1.6, 1.0), True),
            (can_melt_rod(1.5, 2.4, 1.0), False),
            (can_melt_rod(1.85, 2.4, 1.0), True),
            (can_melt_rod(1.84, 2.4, 1.0), False),
            (can_melt_rod(0.79, 0.9, 0.8), False),
            (can_melt_rod(0.79, 0.89, 0.8), True),
            (can_melt_rod(0.8, 0.9, 0.8), True),
            (can_melt_rod(3.0, 0.8, 1.6), True),
            (can_melt_rod(0.6, 1.0, 1.0), True),
        )

    def test_the_same_class_in_the_nearest_size_that_lasts(self) -> None:
        """1.0 mm under 1.5 mm sheet; ER347 and ER316L are sound beside ER308L."""
        self.rows(
            (rods(("ER308L", 1.0, 9), ("ER308L", 1.6, 9)).filler.diameter_mm, 1.0),
            (rods(("ER308L", 1.2, 9), ("ER308L", 1.6, 9)).filler.diameter_mm, 1.2),
            (rods(("ER308L", 1.0, 0), ("ER308L", 1.6, 9)).filler.diameter_mm, 1.6),
            (rods(("ER308L", 0.9, 9), ("ER308L", 1.6, 9)).filler.diameter_mm, 0.9),
            (rods(("ER308L", 2.4, 9), ("ER316L", 1.0, 9)).filler.rod, "ER316L"),
            (rods(("ER309L", 1.0, 9)).filler.rod, "ER308L"),
            (rods(("ER70S-2", 1.0, 99)).filler.rod, "ER308L"),
            (rods(("ER308L", 1.6, 9), ("ER316L", 1.0, 9)).filler.rod, "ER308L"),
        )

    def test_enough_of_it_goes_before_nearness_and_class(self) -> None:
        wanted = plan("butt", length="300 mm").filler
        short = {"length_mm": 100}
        needs = math.ceil(wanted.length_mm / 100)
        self.assertGreater(needs, 2)
        self.rows(
            (rods(("ER308L", 1.0, needs), ("ER316L", 1.0, 99), **short).filler.rod, "ER308L"),
            (rods(("ER308L", 1.0, needs - 1), ("ER316L", 1.0, 99), **short).filler.rod, "ER316L"),
            (
                rods(("ER308L", 1.0, needs - 1), ("ER308L", 1.6, 99), **short).filler.diameter_mm,
                1.6,
            ),
            (rods(("ER308L", 1.0, needs), **short).filler.rods, needs),
            ("rod-short" in codes(rods(("ER308L", 1.0, needs), **short)), False),
            ("rod-short" in codes(rods(("ER308L", 1.0, needs - 1), **short)), True),
        )
        told = rods(("ER308L", 1.0, needs - 1), **short).shop.short
        self.assertEqual(
            [(s.item, s.need, s.have, s.unit) for s in told],
            [("ER308L 1 mm", needs, needs - 1, "rods")],
        )


class Tungsten(Rows):
    def test_parts_that_carry_the_arc(self) -> None:
        """AWS C5.5's rows, from memory; 1.0 mm to 15 A; a size too big for the mean wanders."""
        self.rows(
            (can_carry(choose_tip(70, 140, 1.6), 70, 140), True),
            (can_carry(choose_tip(71, 140, 1.6), 71, 140), False),
            (can_carry(choose_tip(60, 141, 1.6), 60, 141), False),
            (can_carry(choose_tip(15, 20, 1.0), 15, 20), True),
            (can_carry(choose_tip(15.1, 20, 1.0), 15.1, 20), False),
            (can_carry(choose_tip(12, 20, 2.4), 12, 20), True),
            (can_carry(choose_tip(11.9, 20, 2.4), 11.9, 20), False),
            (can_carry(choose_tip(20, 20, 3.2), 20, 20), True),
            (can_carry(choose_tip(19, 20, 3.2), 19, 20), False),
        )

    def test_another_size_that_carries_and_another_type(self) -> None:
        def tungsten(*some: tuple[str, float]) -> tuple[float, str]:
            p = plan(
                "butt",
                shop=make_shop(
                    {"tungstens": [{"type": kind, "diameter_mm": d} for kind, d in some]}
                ),
            )
            return p.tungsten.diameter_mm, p.tungsten.type

        self.rows(
            (tungsten(("lanthanated-2", 2.4)), (2.4, "lanthanated-2")),
            (tungsten(("lanthanated-2", 1.0)), (1.6, "lanthanated-2")),
            (tungsten(("ceriated-2", 1.6), ("lanthanated-2", 2.4)), (1.6, "ceriated-2")),
            (tungsten(("rare-earth", 1.6), ("lanthanated-1.5", 1.6)), (1.6, "lanthanated-1.5")),
            (tungsten(("thoriated-2", 1.6), ("lanthanated-2", 3.2)), (3.2, "lanthanated-2")),
        )


class Back(Rows):
    def test_bars_by_distance_and_heat_capacity(self) -> None:
        self.rows(
            (back(bars=["copper"]), "copper-bar"),
            (back("edge", bars=["aluminium"]), "aluminium-bar"),
            (back(bars=["aluminium"]), "purge"),
            (back(bars=["steel"]), "steel-bar"),
            (back(bars=["steel"], has=["foil"]), "steel-bar"),
            (back(bars=["steel"], has=[]), "purge"),
            (back(bars=[]), "purge"),
            (back("tube-butt", tube(), length="all-round", bars=["copper"]), "purge"),
            (back(bars=["copper"], a=member("2205")), "purge"),
            (back(bars=[], a=member("mild-steel")), "open"),
        )

    def test_a_seam_goes_by_the_bars_there_are(self) -> None:
        p = plan(
            "butt",
            shop=make_shop(
                {
                    "bars": [
                        {"metal": "copper", "length_mm": 80},
                        {"metal": "copper", "length_mm": 150, "count": 0},
                    ]
                }
            ),
            length="300 mm",
        )
        self.rows((p.back.bar_length_mm, 80.0), (p.back.bar_lengths, 4))


class Machines(Rows):
    def test_a_pattern_whose_rate_is_out_of_reach_gives_way(self) -> None:
        def pattern(low: float, high: float, **more: Any) -> tuple[str, float | None]:
            p = plan(
                "outside-corner",
                shop=machine(pulse={"least_pps": low, "most_pps": high}),
                length="380 mm",
                **more,
            ).pulse
            return p.school, p.rate_pps

        wanted = plan("outside-corner", length="380 mm").pulse.rate_pps
        assert wanted is not None
        self.assertTrue(1.5 < wanted < 2.0)
        self.rows(
            (pattern(0.5, 250), ("slow-cold", wanted)),
            (pattern(0.5, 1.5), ("slow-cold", 1.5)),
            (pattern(2.0, 9), ("slow-cold", 2.0)),
            (pattern(2.1, 9)[0], "none"),
            (pattern(0.1, 0.9)[0], "none"),
        )

    def test_machine_that_can_pulse_is_named(self) -> None:
        both = make_shop({"machines": [{"name": "plain", "pulse": None}, {"name": "pulsing"}]})
        alone = make_shop({"machines": [{"name": "plain", "pulse": None}]})
        for shop, words in ((both, "pulsing can do this"), (alone, "No machine in the shop")):
            (told,) = plan("outside-corner", shop=shop, length="380 mm").shop.instead
            self.assertEqual(
                (told.answer, told.wanted, told.used), ("pulse", "slow and cold", "by pedal")
            )
            self.assertIn(words, told.why)
        self.assertEqual(plan("butt", shop=both).shop.instead, ())

    def test_peaks_beyond_the_machine_are_reported(self) -> None:
        """16 ga in a long corner pulses to 110 A."""

        def told(most: float) -> list[str]:
            return [
                i.why
                for i in plan(
                    "outside-corner", thick(1.5875), shop=machine(most_a=most), length="380 mm"
                ).shop.instead
            ]

        self.assertIn("Its peaks of 110 A exceed the 109 A of m", told(109)[0])
        self.assertEqual(told(111), [])

    def test_start_and_finish_never_below_the_machine_minimum(self) -> None:
        p = plan("butt", shop=machine(least_a=20), control="none").slopes
        self.rows((p.start_a, 20.0), (p.finish_a, 20.0))

    def test_arc_start(self) -> None:
        def start(*ways: str) -> str:
            return plan("butt", shop=machine(starts=list(ways))).start

        self.rows(
            (start("lift"), "lift, never by scratching"),
            (start("hf", "scratch"), "HF, never by scratching"),
            (start("hf", "lift"), "HF or lift, never by scratching"),
        )

    def test_benches_in_order(self) -> None:
        shop = make_shop(
            {
                "machines": [{"name": "a"}, {"name": "b"}],
                "torches": [
                    {"name": "t", "size": "9", "machine": "a"},
                    {"name": "u", "size": "17"},
                    {"name": "v", "size": "26"},
                ],
                "bench_machine": "b",
                "bench_torch": "v",
            }
        )
        self.assertEqual(
            [(b.machine.name, [t.name for t in b.torches]) for b in list_benches(shop)],
            [("b", ["v", "u"]), ("a", ["v", "t", "u"])],
        )

    def test_a_torch_that_bears_the_mean_goes_before_the_one_on_the_bench(self) -> None:
        shop = make_shop(
            {
                "torches": [{"name": "slim", "size": "9"}, {"name": "wet", "size": "20"}],
                "bench_torch": "slim",
            }
        )
        self.rows(
            (plan("tee", thick(3.2), shop=shop).shop.torch, "slim"),
            (plan("tee", thick(4.5), shop=shop).shop.torch, "wet"),
        )


class Argon(Rows):
    def test_until_no_regulator_holds_its_flow(self) -> None:
        def p(bar: float, **more: Any) -> Plan:
            return plan(
                "butt",
                shop=make_shop({"cylinders": [{"water_l": 10, "bar": bar, **more}]}),
                length="300 mm",
            )

        need = p(200).gas.argon_l
        self.assertGreater(need, 20)
        ends = p(4 + need / 10 / 2)
        self.assertAlmostEqual(ends.shop.ends_at_mm, 150, delta=1.2)
        self.rows(
            (p(200).shop.ends_at_mm, None),
            (p(200).shop.cylinder_l, float(round(contents_l(10, 200) - contents_l(10, 4)))),
            (p(4).shop.cylinder_l, 0.0),
            (p(0).shop.ends_at_mm, 0.0),
            (p(200, gas="argon-helium").shop.cylinder_l, 0.0),
            (plan("butt").shop.cylinder_l, None),
        )
        enough = p(4 + need / 10 * 1.04)
        self.assertTrue(
            need <= enough.shop.cylinder_l < 1.1 * need and enough.shop.ends_at_mm is None
        )
        told = next(s for s in ends.shop.short if s.unit == "L")
        self.assertAlmostEqual(told.need, need, delta=0.02)
        self.assertIn(
            f"holds {told.have:.0f} L",
            next(c for c in ends.cautions if c.code == "argon-short").sentence.text(),
        )


def front(
    *names: str, kind: str = "butt", cups: tuple[tuple[str, int, str], ...] = (), **more: Any
) -> Plan:
    """Return the plan of a joint with these bodies, lenses and cups in stock.

    All other parts for 1.6 mm are in stock too.
    """
    parts: list[dict[str, Any]] = []
    for name in names:
        which, _, family = name.partition(" ")
        parts += [{"kind": k, "family": family, "tungsten_mm": 1.6} for k in (which, "collet")] + [
            {"kind": "heat-shield", "family": family}
        ]
    parts += [
        {"kind": "cup", "family": family, "cup": number, "fits": fits}
        for family, number, fits in cups
    ]
    once = {tuple(part.items()): part for part in (*parts, {"kind": "back-cap", "family": "large"})}
    return plan(kind, shop=make_shop({"parts": list(once.values())}), **more)


class FrontEnd(Rows):
    def test_a_torch_without_a_back_cap_lacks_a_part(self) -> None:
        parts = [
            {"kind": kind, "family": family, **more}
            for family in ("large", "small")
            for kind, more in (
                ("gas-lens", {"tungsten_mm": 1.6}),
                ("collet", {"tungsten_mm": 1.6}),
                ("heat-shield", {}),
                ("cup", {"cup": 8, "fits": "gas-lens"}),
            )
        ]
        torches = [{"name": "big", "size": "17"}, {"name": "slim", "size": "9"}]
        for caps, used in (
            (["large", "small"], "17"),
            (["small"], "9"),
            (["large"], "17"),
            ([], "17"),
        ):
            owned = [*parts, *({"kind": "back-cap", "family": family} for family in caps)]
            made = plan("butt", shop=make_shop({"torches": torches, "parts": owned}))
            self.assertEqual(made.torch.torch, used, caps)

    def test_the_torch_s_own_lens_before_the_stubby_one(self) -> None:
        eight = (("large", 8, "gas-lens"), ("small", 8, "gas-lens"))
        self.rows(
            (
                front("gas-lens large", "gas-lens stubby", cups=eight).torch.front_end_name,
                "gas lens",
            ),
            (front("gas-lens stubby", cups=eight).torch.front_end_name, "stubby gas lens"),
            (front("gas-lens stubby", cups=eight[:1]).torch.front_end_name, "stubby gas lens"),
        )

    def test_a_plain_body_where_it_reaches_and_never_on_an_edge(self) -> None:
        plain = (("large", 10, "plain"),)
        p = front("collet-body large", cups=plain, reach="5 mm")
        told = p.shop.instead[0]
        self.rows(
            (p.torch.front_end, "plain"),
            ((told.wanted, told.used), ("gas lens no. 8", "collet body no. 10")),
        )
        self.rows(
            (front("collet-body large", cups=plain, reach="6 mm").torch.front_end, "gas-lens"),
            (
                front(
                    "collet-body large", cups=(("large", 16, "plain"),), kind="edge"
                ).torch.front_end,
                "gas-lens",
            ),
            (front("gas-lens large", cups=(("large", 8, "gas-lens"),), kind="edge").torch.cup, 10),
            (front("gas-lens large", cups=(("large", 12, "gas-lens"),), kind="edge").torch.cup, 12),
        )

    def test_no_cup_that_reaches_worse(self) -> None:
        """11.7 mm of reach, 12.7 out: sound for a no. 8 and up; a no. 7 is sound to 11.1."""
        self.rows(
            (front("gas-lens large", cups=(("large", 7, "gas-lens"),)).torch.cup, 7),
            (
                front(
                    "gas-lens large", cups=(("large", 7, "gas-lens"),), reach="11.7 mm"
                ).torch.cup,
                8,
            ),
            (
                front(
                    "gas-lens large", cups=(("large", 10, "gas-lens"),), reach="11.7 mm"
                ).torch.cup,
                10,
            ),
        )


class Short(Rows):
    def test_manual_bars_that_the_shop_lacks(self) -> None:
        def short(*metals: str, **more: Any) -> list[str]:
            return [
                s.item
                for s in plan(
                    "butt",
                    shop=make_shop({"bars": [{"metal": m, **more} for m in metals]}),
                    back="copper-bar",
                ).shop.short
            ]

        self.rows(
            (short("steel"), ["copper bars"]),
            (short("copper"), []),
            (short("copper", count=0), ["copper bars"]),
        )

    def test_sufficient_stock_is_no_shortage(self) -> None:
        shop = make_shop(
            {
                "cylinders": [{"water_l": 50, "bar": 200}],
                "rods": [{"rod": "ER308L", "diameter_mm": 1.0, "count": 40}],
                "tungstens": [{"type": "lanthanated-2", "diameter_mm": 1.6}],
            }
        )
        self.assertEqual(plan("butt", shop=shop).shop.short, ())
        self.assertEqual(
            [s.item for s in plan("butt", shop=make_shop({"tungstens": []})).shop.short],
            ["tungsten 1.6 mm"],
        )


class Caps(Rows):
    def test_maximum_length_in_stock_and_its_use(self) -> None:
        """A short cap takes 100 mm, a button 75, a long one a whole tungsten: estimates."""

        def cap(*lengths: str, tungsten: float = 175) -> str:
            parts = [{"kind": "back-cap", "family": "large", "length": one} for one in lengths]
            part = plan(
                "butt",
                shop=make_shop(
                    {
                        "parts": parts,
                        "tungstens": [
                            {"type": "lanthanated-2", "diameter_mm": 1.6, "length_mm": tungsten}
                        ],
                    }
                ),
            ).shop.build[-1]
            return f"{part.text}: {part.check.partition('Cut the tungsten to ')[2]}"

        self.rows(
            (cap("short", "long"), "long back cap: "),
            (cap("button", "short"), "short back cap: at most 100 mm for it."),
            (cap("button"), "button back cap: at most 75 mm for it."),
            (cap("short", tungsten=100), "short back cap: "),
            (cap("button", tungsten=76), "button back cap: at most 75 mm for it."),
            (cap(), "back cap: "),
        )
