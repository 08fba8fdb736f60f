"""Signs of a run: each from where it begins to where it is all there; which way it speaks for a
cause; how far a change goes. The ends: estimates, written out here by hand; which sign speaks for
what: common practice, no source.
"""

import math
import unittest
from dataclasses import replace
from typing import Any

from tests import samples
from tests.samples import member, plan, typed
from wisearc.core import catalogue
from wisearc.core.diagnosis.actual import Actual
from wisearc.core.diagnosis.attempts import complaints
from wisearc.core.diagnosis.causes import rank
from wisearc.core.diagnosis.changes import Change, Refused, changes_for
from wisearc.core.diagnosis.signs import Told, grown, signs_of
from wisearc.core.plan.plan import Plan
from wisearc.core.run.inspection import place_words
from wisearc.core.shop.shop import ASSUMED, Machine

STEADY: dict[str, Any] = {
    "a": member(thickness="1.5 mm"),
    "length": "100 mm",
    "filler": "ER308L",
    "pulse": "none",
    "control": "none",
}


def told(made: Plan, **more: Any) -> dict[str, Told]:
    """The signs of a run as planned, but for what is given."""
    run = samples.run(dict(made.joint), good=False)
    for key, value in more.items():
        run[key] = {**run.get(key, {}), **value} if isinstance(value, dict) else value
    return signs_of(Actual(made, typed(run), ASSUMED))


class Ends(unittest.TestCase):
    def test_each_grows_between_its_ends(self) -> None:
        made = plan("butt", **STEADY)
        dial, v, d, a = (
            made.slopes.machine_a,
            made.travel.speed_mm_s,
            made.travel.pool_width_mm,
            made.section.heat.a,
        )
        flow, cup, most = made.gas.flow_l_min, made.torch.cup, made.fit_up.max_gap_mm
        purged = plan("tube-butt", samples.tube(), length="all-round")

        def current(share: float) -> dict[str, Any]:
            return {"set": {"current_a": share * dial}}

        def pace(share: float) -> dict[str, Any]:
            return {"measured": {"length_mm": 100, "arc_time_s": 100 / (share * v)}}

        def pool(ratio: float) -> dict[str, Any]:
            # Wells 1952: the current for a pool is as 0.2 + v d / 4a
            return current((0.2 + v * d * ratio / (4 * a)) / (0.2 + v * d / (4 * a)))

        def log(**figures: Any) -> dict[str, Any]:
            return {"arc": {"by": "log", "mean_a": made.slopes.mean_a, "arc_s": 100 / v, **figures}}

        def volts(value: float) -> dict[str, Any]:
            return log(energy_kj=value * made.slopes.mean_a * (100 / v) / 1000)

        def jet(reynolds: float) -> dict[str, Any]:
            # Q = Re · π/4 · D · ν, argon at 20 °C of the tables: 1.66 kg/m³, 2.23e-5 Pa s
            return {
                "set": {
                    "flow_l_min": (
                        reynolds * math.pi / 4 * (cup * 25.4 / 16 / 1000) * (2.23e-5 / 1.66) * 60000
                    )
                }
            }

        def speed(value: float) -> dict[str, Any]:
            return {
                "set": {"flow_l_min": value * math.pi / 4 * (16 * 25.4 / 16 / 1000) ** 2 * 60000},
                "used": {"cup": 16},
            }

        glow = made.heat.glow_after_stop_s
        rows: tuple[tuple[str, Any, float, float], ...] = (
            ("amps-over", current, 1.05, 1.15),
            ("amps-under", current, 0.95, 0.85),
            ("pace-fast", pace, 1.08, 1.25),
            ("pace-slow", pace, 0.92, 0.75),
            ("pool-large", pool, math.exp(0.05), math.exp(0.22)),
            ("pool-small", pool, math.exp(-0.05), math.exp(-0.22)),
            ("arc-long", volts, 12.0, 13.44),
            ("bead-wide", lambda x: {"measured": {"bead_mm": x * d}}, 1.15, 1.5),
            ("gap-over", lambda x: {"used": {"gap_mm": x * most}}, 0.9, 1.3),
            ("jet-torn", jet, 0.88 * 2000, 1.05 * 2000),
            ("jet-slow", lambda x: {"set": {"flow_l_min": x * flow}}, 0.8, 0.5),
            ("jet-slow", speed, 1.02 * 0.45, 0.8 * 0.45),
            ("left-early", lambda x: {"arc": {"by": "timer", "held_s": x}}, glow + 1, glow - 1.5),
            ("tacks-fewer", lambda x: log(tacks=x * made.tacks.count), 0.95, 0.6),
            ("taper-short", lambda x: log(taper_s=x * made.slopes.down_s), 0.85, 0.4),
            ("pool-late", lambda x: log(pool_s=2 * x), 1.0, 2.0),
        )
        for sign, make, nothing, whole in rows:
            with self.subTest(sign=sign):
                half = (
                    math.sqrt(nothing * whole)
                    if sign.startswith("pool-") and sign != "pool-late"
                    else (nothing + whole) / 2
                )
                found = [told(made, **make(x))[sign].strength for x in (nothing, half, whole)]
                if sign == "jet-slow" and make is not speed:
                    found[0] = max(0.0, found[0] or 0.0)
                self.assertAlmostEqual(found[0] or 0.0, 0.0, delta=0.03)
                self.assertAlmostEqual(found[1] or 0.0, 0.5, delta=0.03)
                self.assertAlmostEqual(found[2] or 0.0, 1.0, delta=0.03)
        for ratio, strength in ((math.exp(0.1), 0.0), (math.exp(0.65), 0.5), (math.exp(1.2), 1.0)):
            high = told(purged, purge={"at_arc_ppm": 50 * ratio, "target_ppm": 50})[
                "purge-high"
            ].strength
            self.assertAlmostEqual(high or 0.0, strength, delta=0.01)

    def test_cover_and_reach(self) -> None:
        """A lens covers one and a half bores, a plain body one (estimate); the hot band by Adams
        1958, turned round.
        """
        made = plan("butt", **STEADY)
        heat, power = made.section.heat, 0.6 * made.heat.arc_voltage_v * made.slopes.mean_a
        rise = 1 / (450 - 20) - 1 / (heat.liquidus_c - 20)
        beside = (
            rise
            * power
            / (
                math.sqrt(2 * math.pi * math.e)
                * heat.rho_c
                * made.section.h_mm
                * made.travel.speed_mm_s
            )
        )
        hot = made.travel.pool_width_mm + 2 * beside
        for cup in (5, 6, 7):
            short = hot / (1.5 * cup * 25.4 / 16) - 1
            self.assertAlmostEqual(
                told(made, used={"cup": cup})["band-uncovered"].strength or 0,
                min(1, max(0, short / 0.3)),
                delta=0.03,
            )
        for out, strength in ((0.95, 0.0), (1.05, 0.5), (1.15, 1.0)):
            far = plan("butt", **STEADY, pins={"cup": 8, "stickout_mm": out * 12.7})
            self.assertAlmostEqual(told(far)["lens-far"].strength or 0, strength, delta=0.02)
        rise = 1 / (290 - 20) - 1 / (heat.liquidus_c - 20)
        straw = made.travel.pool_width_mm + 2 * rise * power / (
            math.sqrt(2 * math.pi * math.e)
            * heat.rho_c
            * made.section.h_mm
            * made.travel.speed_mm_s
        )
        for wide, strength in ((1.15, 0.0), (1.325, 0.5), (1.5, 1.0)):
            self.assertAlmostEqual(
                told(made, seen={"band_mm": wide * straw})["band-wide"].strength or 0,
                strength,
                delta=0.04,
            )

    def test_what_the_joint_itself_says(self) -> None:
        edge, long, thick = (
            plan("edge", member(), length="149 mm"),
            plan("butt", member(), length="150 mm"),
            plan("tee", member("304L", "1 mm"), member("304L", "1.3 mm")),
        )
        for sign, one, other in (
            ("splits-gas", edge, long),
            ("along-edge", edge, long),
            ("long-seam", long, edge),
            ("unlike", thick, long),
        ):
            self.assertEqual(
                (told(one)[sign].strength, told(other)[sign].strength), (1.0, 0.0), sign
            )
        self.assertEqual(
            told(plan("tee", member("304L", "1 mm"), member("304L", "1.19 mm")))["unlike"].strength,
            0.0,
        )
        bare, covered = (
            plan("butt", member(), back="open", length="100 mm"),
            plan("butt", member(), back="copper-bar", length="100 mm"),
        )
        self.assertEqual(
            (told(bare)["back-open"].strength, told(covered)["back-open"].strength), (1.0, 0.0)
        )
        self.assertEqual(
            (told(bare)["unchilled"].strength, told(covered)["unchilled"].strength), (1.0, 0.0)
        )
        mild = plan("butt", member("mild-steel"), back="open", length="100 mm")
        self.assertEqual(told(mild)["back-open"].strength, 0.0)
        steel = told(long, used={"rod": "ER70S-2"})["rod-carbon"].strength
        self.assertEqual(
            (steel, told(long)["rod-carbon"].strength, told(edge)["rod-carbon"].strength),
            (1.0, 0.0 if long.filler.rod else None, None),
        )

    def test_nobody_looked_is_not_absent(self) -> None:
        made = plan("butt", **STEADY)
        blank = signs_of(Actual(made, typed({"set": {}, "used": {}, "measured": {}}), ASSUMED))
        for sign in (
            "hole",
            "frosty",
            "sugar",
            "amps-over",
            "pace-fast",
            "left-early",
            "jet-torn",
            "gap-over",
            "taper-short",
            "band-wide",
            "toe-broke",
            "draught",
        ):
            self.assertIsNone(blank[sign].strength, sign)
        # a gas that was set for long enough does not say that the torch stayed; one that was set
        # short does
        self.assertIsNone(told(made)["left-early"].strength)
        self.assertGreater(told(made, set={"postflow_s": 0.5})["left-early"].strength or 0, 0.3)
        self.assertIsNone(told(made, faults=[])["frosty"].strength)
        self.assertEqual(set(blank), set(catalogue.signs()))
        self.assertEqual([grown(x, (1.0, 3.0)) for x in (0, 1, 1.5, 3, 9)], [0, 0, 0.25, 1, 1])


# which signs speak for a cause, and which against it: common practice, no source
SPEAKS = {
    "heat-low": ("cold pool-small amps-under pace-fast", "too-hot pool-large grey hole undercut"),
    "heat-high": (
        "too-hot pool-large amps-over pace-slow front-tint band-wide hole edge-lost bowed undercut",
        "cold pool-small",
    ),
    "left-early": ("grey grey-at-end left-early rod-grey", "grey-all jet-torn wobble"),
    "cover-small": (
        "grey grey-all front-tint band-uncovered lens-far far-out rod-grey",
        "grey-at-end left-early front-bright",
    ),
    "gas-high": ("wobble jet-torn pores", "jet-slow"),
    "gas-low": (
        "grey grey-all front-tint jet-slow draught pores cold",
        "wobble jet-torn far-out grey-at-end front-bright",
    ),
    "edge-splits": ("frosty pores splits-gas", "dirty jet-torn"),
    "root-cold": ("keyhole rod-fed", "gap-over hole"),
    "gap": ("hole gap-over keyhole", "pool-large edge-lost"),
    "arc-on-thin": ("edge-lost arc-on-thin unlike along-edge hole", "gap-over pool-large"),
    "tacks-few": ("tacks-cracked tacks-fewer", ""),
    "back-bare": ("sugar half-sugar back-open", "purge-high back-bright"),
    "purge-thin": ("sugar purge-high purged back-tint", "half-sugar back-bright"),
    "taper-short": ("crater taper-short cracks-short", ""),
    "restart-late": ("restart pool-late restarts", ""),
    "hand-uneven": ("uneven rod-side wide", "touched"),
    "warp": ("bowed unchilled long-seam pool-large", ""),
    "iron": ("rusts iron-tool", "rod-carbon"),
    "rod-wrong": ("rusts rod-carbon", "iron-tool"),
    "bead-heavy": ("toe-broke bead-wide undercut", "cold"),
    "touched": ("touched wide uneven", ""),
    "dirty": ("pores dirty rough", "frosty jet-torn jet-slow wobble"),
    "arc-long": ("arc-long undercut wide wobble", ""),
}
# what, looked for and not there, speaks against
MISSED = {
    "heat-low": "cold pool-small amps-under pace-fast",
    "heat-high": "too-hot pool-large amps-over pace-slow band-wide",
    "left-early": "grey grey-at-end left-early",
    "cover-small": "grey grey-all front-tint band-uncovered lens-far far-out rod-grey",
    "gas-high": "wobble jet-torn",
    "gas-low": "grey grey-all jet-slow draught",
    "edge-splits": "frosty pores splits-gas",
    "root-cold": "keyhole rod-fed",
    "gap": "hole gap-over",
    "arc-on-thin": "edge-lost arc-on-thin unlike",
    "tacks-few": "tacks-cracked tacks-fewer",
    "back-bare": "sugar half-sugar back-open",
    "purge-thin": "sugar purge-high purged back-tint",
    "taper-short": "crater taper-short",
    "restart-late": "restart pool-late restarts",
    "hand-uneven": "uneven rod-side",
    "warp": "bowed unchilled",
    "iron": "rusts iron-tool",
    "rod-wrong": "rusts rod-carbon",
    "bead-heavy": "toe-broke bead-wide undercut",
    "touched": "touched",
    "dirty": "pores dirty",
    "arc-long": "arc-long undercut wide",
}
# the sign by which the trade knows it, which alone outweighs half a dozen hints
NAMED_BY = {
    "heat-low": "cold",
    "heat-high": "too-hot",
    "gas-high": "wobble",
    "edge-splits": "frosty",
    "root-cold": "keyhole",
    "arc-on-thin": "edge-lost",
    "tacks-few": "tacks-cracked",
    "back-bare": "sugar",
    "taper-short": "crater",
    "restart-late": "restart",
    "hand-uneven": "uneven",
    "warp": "bowed",
    "iron": "rusts",
    "bead-heavy": "toe-broke",
    "touched": "touched",
}


class Speaks(unittest.TestCase):
    def share(self, cause: str, **strength: float | None) -> float:
        """The share of a cause where all that is known are some signs, by _ for -."""
        given = {key.replace("_", "-"): value for key, value in strength.items()}
        signs = {key: Told(key, given.get(key)) for key in catalogue.signs()}
        return next((one.weight for one in rank(signs) if one.cause.key == cause), 0.0)

    def test_which_way(self) -> None:
        self.assertEqual(set(SPEAKS), set(catalogue.causes()))
        for cause, (supports, against) in SPEAKS.items():
            row = catalogue.causes()[cause]
            listed = (
                {"front-bright"}
                if cause == "heat-low"
                else {"frosty", "grey"}
                if cause == "gas-high"
                else set()
            )
            listed |= {
                "heat-high": {"back-tint"},
                "left-early": {"band-uncovered"},
                "cover-small": {"cold", "wobble", "too-hot"},
                "gas-low": {"rod-grey"},
            }.get(cause, set())
            listed |= {
                "edge-splits": {"grey"},
                "root-cold": {"cold", "pool-small"},
                "gap": {"tacks-cracked"},
                "back-bare": {"back-tint"},
                "dirty": {"splits-gas"},
                "arc-long": {"grey"},
            }.get(cause, set())
            self.assertEqual(
                set(row.evidence), {*supports.split(), *against.split(), *listed}, cause
            )
            for sign in supports.split():
                self.assertGreater(row.evidence[sign][0], 0, (cause, sign))
            for sign in against.split():
                self.assertLess(row.evidence[sign][0], 0, (cause, sign))
            missed = {sign for sign, (_, absent) in row.evidence.items() if absent < 0}
            self.assertEqual(missed, set(MISSED[cause].split()), cause)
            self.assertFalse([sign for sign, (_, absent) in row.evidence.items() if absent > 0])

    def test_the_sign_the_trade_knows_it_by_names_it(self) -> None:
        for cause, sign in NAMED_BY.items():
            self.assertGreater(
                self.share(cause, **{sign.replace("-", "_"): 1.0}), 0.6, (cause, sign)
            )
            row = catalogue.causes()[cause]
            self.assertGreaterEqual(row.evidence[sign][0], 2.2, (cause, sign))
            self.assertGreaterEqual(max(w for w, _ in row.evidence.values()), 2.2)

    def test_half_there_weighs_half(self) -> None:
        whole, half = (
            self.share("heat-high", hole=1.0, pool_large=1.0),
            self.share("heat-high", hole=1.0, pool_large=0.5),
        )
        gap = (
            self.share("gap", hole=1.0, pool_large=1.0),
            self.share("gap", hole=1.0, pool_large=0.5),
        )
        # 1.8 for, −0.7 where it is not; −0.7 against the gap: half of each is (1.8 + 0.7) / 2 + 0.7
        # / 2 less between the two
        self.assertAlmostEqual(
            math.log(whole / gap[0]) - math.log(half / gap[1]),
            (1.8 + 0.7) / 2 + 0.7 / 2,
            delta=0.02,
        )

    def test_a_hint_lists_nothing(self) -> None:
        def listed(*there: str, by: str = "seen") -> list[str]:
            return [
                r.cause.key
                for r in rank(
                    {
                        k: Told(k, 1.0 if k in there else None, by if k in there else "seen")
                        for k in catalogue.signs()
                    }
                )
            ]

        self.assertEqual(listed("front-bright", "back-bright", "even"), [])
        self.assertEqual(
            listed("unchilled", "long-seam", "splits-gas", "unlike", "back-open", by="plan"), []
        )
        self.assertNotIn("heat-high", listed("undercut"))
        self.assertIn("arc-long", listed("undercut"))


class HowFar(unittest.TestCase):
    """How far each change goes: 5 to 10 % of current, 10 % of pace, 2 s of gas by the handbook
    (common practice); the rest estimates.
    """

    def change(self, cause: str, code: str, made: Plan, **more: Any) -> Change | Refused | None:
        run = samples.run(dict(made.joint), good=False)
        for key, value in more.items():
            run[key] = {**run.get(key, {}), **value} if isinstance(value, dict) else value
        actual = Actual(made, typed(run), ASSUMED)
        return next(
            (one for one in changes_for(cause, actual, signs_of(actual)) if one.code == code), None
        )

    def moved(self, cause: str, code: str, made: Plan, **more: Any) -> tuple[Any, Any]:
        found = self.change(cause, code, made, **more)
        self.assertIsInstance(found, Change, (cause, code, found))
        assert isinstance(found, Change)
        return found.move.before, found.move.after

    def test_figures(self) -> None:
        butt = plan("butt", **STEADY)
        steady, pace, gas = butt.current.steady_a, butt.travel.speed_mm_s, butt.gas
        for code, cause, before, after, more in (
            ("amps-up", "heat-low", steady, round(1.10 * steady), {"faults": ["cold"]}),
            ("amps-up", "root-cold", steady, round(1.05 * steady), {"faults": ["keyhole"]}),
            ("amps-down", "heat-high", steady, round(0.9 * steady), {}),
            ("slower", "heat-low", pace, round(0.9 * pace, 2), {}),
            ("faster", "heat-high", pace, round(1.1 * pace, 2), {}),
            ("postflow-longer", "left-early", gas.postflow_s, gas.postflow_s + 2, {}),
            (
                "hold-still",
                "left-early",
                3.0,
                gas.postflow_s,
                {"arc": {"by": "timer", "held_s": 3.0}},
            ),
            (
                "postflow-as-planned",
                "left-early",
                2.0,
                gas.postflow_s,
                {"set": {"postflow_s": 2.0}},
            ),
            ("flow-down", "gas-high", gas.flow_l_min, round(0.85 * gas.flow_l_min, 1), {}),
            ("flow-up", "gas-low", gas.flow_l_min, round(1.15 * gas.flow_l_min, 1), {}),
            ("refit", "gap", 1.0, round(butt.fit_up.max_gap_mm / 2, 2), {"used": {"gap_mm": 1.0}}),
            (
                "tacks-closer",
                "tacks-few",
                butt.tacks.pitch_mm,
                round(0.7 * butt.tacks.pitch_mm, 1),
                {},
            ),
            (
                "tacks-as-planned",
                "tacks-few",
                2,
                butt.tacks.count,
                {"arc": {"by": "timer", "tacks": 2}},
            ),
            (
                "taper-longer",
                "taper-short",
                0.5,
                butt.slopes.down_s,
                {"arc": {"by": "timer", "taper_s": 0.5}},
            ),
            ("taper-longer", "taper-short", 4.0, 6.0, {"arc": {"by": "timer", "taper_s": 4.0}}),
            ("restart-warm", "restart-late", "", 2.0, {}),
            ("reposition", "hand-uneven", "", 80.0, {}),
            ("shorter-runs", "warp", "", 50.0, {}),
            ("shorter-arc", "arc-long", "", 1.5, {}),
            (
                "set-as-planned",
                "heat-low",
                round(0.9 * butt.slopes.machine_a),
                butt.slopes.machine_a,
                {"set": {"current_a": round(0.9 * butt.slopes.machine_a)}},
            ),
            ("cup-as-planned", "cover-small", 5, butt.torch.cup, {"used": {"cup": 5}}),
            ("flow-as-planned", "gas-low", 4.0, gas.flow_l_min, {"set": {"flow_l_min": 4.0}}),
        ):
            with self.subTest(code=code, cause=cause):
                self.assertEqual(self.moved(cause, code, butt, **more), (before, after))
        bigger = self.moved("cover-small", "cup-bigger", butt)
        self.assertEqual(bigger, (butt.torch.cup, {8: 10, 10: 12, 12: 14}[butt.torch.cup]))

    def test_other_plans(self) -> None:
        carbon = plan("butt", member("mild-steel"), length="100 mm")
        self.assertEqual(self.moved("restart-late", "restart-warm", carbon)[1], 3.0)
        tee = plan("tee", member(), filler="ER308L", leg="2 mm")
        self.assertEqual(self.moved("bead-heavy", "smaller-bead", tee), (2.0, 1.7))
        purged = plan("tube-butt", samples.tube(), length="all-round", purge_target_ppm=100)
        self.assertEqual(self.moved("purge-thin", "purge-longer", purged), (100, 50))
        self.assertEqual(
            self.moved(
                "purge-thin",
                "wait-for-the-meter",
                purged,
                purge={"at_arc_ppm": 400, "target_ppm": 100},
            ),
            (400, 100),
        )
        low = plan("tube-butt", samples.tube(), length="all-round", purge_target_ppm=30)
        self.assertEqual(self.moved("purge-thin", "purge-longer", low), (30, 20))
        low = plan("tube-butt", samples.tube(), length="all-round", purge_target_ppm=21)
        self.assertEqual(self.moved("purge-thin", "purge-longer", low), (21, 20))
        self.assertIsNone(
            self.change(
                "purge-thin",
                "purge-longer",
                plan("tube-butt", samples.tube(), length="all-round", purge_target_ppm=20),
            )
        )
        far = plan("butt", **STEADY, pins={"cup": 8, "stickout_mm": 14})
        self.assertEqual(self.moved("cover-small", "stickout-shorter", far), (14.0, 12.0))
        plain = plan("edge", member(thickness="1 mm"), pins={"front_end": "plain"})
        self.assertEqual(self.moved("edge-splits", "lens", plain), ("plain", "gas-lens"))

    def test_one_size_of_cup_at_a_time(self) -> None:
        for cup, next_up in (
            (4, 5),
            (5, 6),
            (6, 7),
            (7, 8),
            (8, 10),
            (10, 12),
            (12, 14),
            (14, 15),
            (15, 16),
        ):
            found = self.change(
                "cover-small", "cup-bigger", plan("butt", **STEADY, pins={"cup": cup})
            )
            assert found is not None
            self.assertTrue(
                found.words.text().startswith(f"Cup {cup} → {next_up}, argon"), found.words.text()
            )
        self.assertIsNone(
            self.change("cover-small", "cup-bigger", plan("butt", **STEADY, pins={"cup": 16}))
        )

    def test_a_pulse_that_fits_and_is_not_there_yet(self) -> None:
        corner = plan("outside-corner", member(thickness="1.2 mm"), length="380 mm", pulse="none")
        self.assertEqual(
            self.moved("warp", "pulse-cold", corner)[1],
            catalogue.pulse_patterns()["slow-cold"].name,
        )
        self.assertIsNone(
            self.change(
                "warp",
                "pulse-cold",
                plan(
                    "outside-corner", member(thickness="1.2 mm"), length="380 mm", pulse="slow-cold"
                ),
            )
        )
        self.assertEqual(
            self.moved(
                "back-bare", "cover-the-back", plan("butt", member(), length="100 mm", back="open")
            )[1],
            "argon purge",
        )
        self.assertEqual(
            self.moved("warp", "bars", plan("butt", member(), length="300 mm", back="open"))[1],
            "copper bars",
        )

    def test_aim_by_which_side_is_thick_and_a_rod_that_does_not_harden(self) -> None:
        unlike, like = (
            plan("tee", member("304L", "1 mm"), member("304L", "2 mm")),
            plan("outside-corner", member(thickness="1.2 mm")),
        )
        for made, proposed, other in (
            (unlike, "aim-at-the-thick", "aim-off-the-edge"),
            (like, "aim-off-the-edge", "aim-at-the-thick"),
        ):
            self.assertIsNotNone(self.change("arc-on-thin", proposed, made))
            self.assertIsNone(self.change("arc-on-thin", other, made))
        hard = plan("butt", member("430"), length="100 mm", filler="none")
        self.assertIn("martensite", samples.codes(hard))
        before, after = self.moved("bead-heavy", "tougher-rod", hard)
        self.assertEqual(before, "none")
        self.assertNotIn(
            "martensite", samples.codes(plan("butt", member("430"), length="100 mm", filler=after))
        )
        self.assertIsNone(
            self.change(
                "bead-heavy",
                "tougher-rod",
                plan("butt", member(), length="100 mm", filler="ER308L"),
            )
        )

    def test_a_plan_of_older_rules_is_changed_to_what_today_asks_at_least(self) -> None:
        butt = plan("butt", **STEADY)
        older = replace(butt, gas=replace(butt.gas, postflow_s=butt.gas.postflow_s - 4))
        self.assertEqual(
            self.moved("left-early", "postflow-longer", older),
            (older.gas.postflow_s, butt.gas.postflow_s),
        )

    def test_what_a_standing_caution_forbids_stays_forbidden(self) -> None:
        """A torch past its rating, a jet that is too slow, one that tears: no change goes further
        that way, though nothing new is said.
        """
        machine = replace(ASSUMED, machines=(Machine(name="large", most_a=400.0),))
        hot = plan(
            "butt",
            member(thickness="3 mm"),
            length="100 mm",
            control="none",
            pulse="none",
            shop=machine,
            pins={"current_a": 151},
        )
        slow = plan("butt", **STEADY, pins={"cup": 16, "flow_l_min": 4.0})
        torn = plan("butt", **STEADY, pins={"cup": 8, "flow_l_min": 17.0})
        for made, code, cause, change, back, its_cause in (
            (hot, "torch-overrun", "heat-low", "amps-up", "amps-down", "heat-high"),
            (slow, "gas-too-slow", "gas-high", "flow-down", "flow-up", "gas-low"),
            (torn, "gas-turbulent", "gas-low", "flow-up", "flow-down", "gas-high"),
        ):
            self.assertIn(code, samples.codes(made, "stop", "caution"))
            found = self.change(cause, change, made)
            self.assertIsInstance(found, Refused, change)
            assert isinstance(found, Refused)
            self.assertEqual(found.caution.code, code)
            self.assertIsInstance(self.change(its_cause, back, made), Change, back)

    def test_looks_and_places(self) -> None:
        butt = plan("butt", **STEADY)
        for look, sign in (("rough", "rough"), ("wide", "wide")):
            self.assertEqual(
                [told(butt, look=one)[sign].strength for one in (look, "even", None)],
                [1.0, 0.0, None],
            )
        self.assertEqual(
            [told(butt, arc={"by": "timer", "touched": n})["touched"].strength for n in (0, 1)],
            [0.0, 1.0],
        )
        self.assertEqual(
            [told(butt, arc={"by": "timer", "restarts": n})["restarts"].strength for n in (0, 1)],
            [0.0, 1.0],
        )
        shown = [
            place_words(place)
            for place in ("stops", [0, 1], [0.0, 0.2], [0.2, 0.8], [0.8, 1.0], [0.3, 0.55])
        ]
        self.assertEqual(
            shown,
            [
                "at the stops",
                "all along",
                "at the start",
                "in the middle",
                "at the end",
                "from 30 to 55 %",
            ],
        )
        for colour, wrong in (
            ("silver", ()),
            ("straw", ()),
            ("brown", ("front brown",)),
            ("blue", ("front blue",)),
            ("grey", ("front grey",)),
        ):
            self.assertEqual(
                complaints(typed({"front": {"colour": colour}, "back": {"colour": "silver"}})),
                wrong,
            )
        self.assertEqual(
            complaints(
                typed(
                    {"faults": ["grey"], "front": {"colour": "grey"}, "back": {"colour": "sugar"}}
                )
            ),
            ("grey, dull face", "sugar behind"),
        )

    def test_what_stands_is_not_proposed(self) -> None:
        butt = plan("butt", **STEADY)
        for cause, code in (
            ("heat-low", "set-as-planned"),
            ("heat-low", "pace-as-planned"),
            ("left-early", "postflow-as-planned"),
            ("left-early", "hold-still"),
            ("cover-small", "lens"),
            ("cover-small", "cup-as-planned"),
            ("cover-small", "stickout-shorter"),
            ("gas-low", "flow-as-planned"),
            ("tacks-few", "tacks-as-planned"),
            ("rod-wrong", "right-rod"),
            ("back-bare", "purge-longer"),
            ("bead-heavy", "smaller-bead"),
        ):
            self.assertIsNone(self.change(cause, code, butt), (cause, code))
        # within 8 % of current and 13 % of pace it is as planned
        self.assertIsNone(
            self.change(
                "heat-low", "set-as-planned", butt, set={"current_a": 0.925 * butt.slopes.machine_a}
            )
        )
        self.assertIsNotNone(
            self.change(
                "heat-low", "set-as-planned", butt, set={"current_a": 0.915 * butt.slopes.machine_a}
            )
        )
        self.assertIsNone(
            self.change(
                "heat-low",
                "pace-as-planned",
                butt,
                measured={"length_mm": 100, "arc_time_s": 100 / (1.12 * butt.travel.speed_mm_s)},
            )
        )
        self.assertIsNotNone(
            self.change(
                "heat-low",
                "pace-as-planned",
                butt,
                measured={"length_mm": 100, "arc_time_s": 100 / (1.15 * butt.travel.speed_mm_s)},
            )
        )
