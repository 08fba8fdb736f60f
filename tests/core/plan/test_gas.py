"""Argon flow, pre-flow and post-flow."""

import unittest

from tests.core.rows import STEEL, Rows, list_sets, said, thick
from tests.samples import CORNER, plan
from wisearc.core.joint.data import make_joint
from wisearc.core.physics.gas import flow_at_speed_l_min
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.preparation.safety import choose_shade
from wisearc.core.plan.shielding.gas import postflow_rule_s, round_up_to_half_s
from wisearc.core.quantities import flow
from wisearc.core.shop.shop import ASSUMED


class Gas(Rows):
    def test_flow(self) -> None:
        """Reynolds 1200 with a lens, 1350 plain, frugal 800 and 1250.

        The draught of a shop 0.45 m/s; the floor 10 CFH.
        """
        for front, cup, approach, re in (
            ("gas-lens", 8, "full", 1200.0),
            ("plain", 8, "full", 1350.0),
            ("gas-lens", 12, "frugal", 800.0),
            ("plain", 8, "frugal", 1250.0),
        ):
            self.rows(
                (
                    plan(
                        "butt", gas_school=approach, pins={"front_end": front, "cup": cup}
                    ).gas.reynolds,
                    re,
                )
            )
        frugal = {cup: plan("butt", gas_school="frugal", pins={"cup": cup}).gas for cup in (4, 16)}
        for cup, taken in frugal.items():
            offered = next(
                o
                for o in plan("butt", pins={"cup": cup}).gas.others
                if o.sets == {"gas_school": "frugal"}
            )
            self.assertEqual(offered.value.text("mm"), flow(taken.flow_l_min).text("mm"))
        self.rows(
            (frugal[4].flow_l_min, 4.72),
            (frugal[16].exit_speed_m_s, 0.45),
            (flow_at_speed_l_min(0.45, 12.7), 3.42),
        )

    def test_times(self) -> None:
        """Pre-flow 0.5 s, 1 s from no. 10.

        Post-flow until the glow ends, at least 5 s on steel and 6 on stainless. For comparison 1 s
        a 10 A, 15 at most; a cautious welder adds 2 s.
        """
        self.rows(
            (plan("butt", pins={"cup": 8}).gas.preflow_s, 0.5),
            (plan("butt", pins={"cup": 10}).gas.preflow_s, 1.0),
            *(
                (postflow_rule_s(a), s)
                for a, s in ((30, 3), (61, 6.5), (80, 8), (150, 15), (160, 15))
            ),
        )
        glowing = plan("butt", thick(2.4), back="purge").gas
        self.rows(
            (round_up_to_half_s(6.0), 6.0),
            (round_up_to_half_s(6.01), 6.5),
            (glowing.postflow_s, round_up_to_half_s(glowing.postflow_glow_s)),
            (plan("butt", thick(0.8)).gas.postflow_s, 6.0),
            (plan("butt", thick(0.6, "mild-steel")).gas.postflow_s, 5.0),
        )
        p = plan("butt", finish="sound")
        self.rows(
            (p.gas.postflow_glow_s, p.heat.glow_after_stop_s),
            ("at least 6 s" in said(p, "gas"), True),
            ("at least 5 s" in said(plan("butt", STEEL), "gas"), True),
            (list_sets(p, "gas", "pins.postflow_s"), [p.gas.postflow_s + 2.0]),
        )

    def test_consumption_against_a_manual_calculation(self) -> None:
        """Arc, and each start with its pre- and post-flow, at the torch.

        Behind, before and while welding.
        """
        p = make_plan(make_joint(CORNER), ASSUMED)
        self.rows((p.gas.starts, 1 + 3 + 13), (p.gas.postflow_s, 6.0))
        self.assertAlmostEqual(
            p.gas.torch_l,
            p.gas.flow_l_min / 60 * (p.travel.arc_time_s + 17 * (0.5 + 6.0)),
            delta=0.06,
        )
        purged = plan("butt", back="purge", length="200 mm")
        self.rows(
            (
                purged.gas.back_l,
                round(
                    purged.back.purge.preflow_l_min * purged.back.purge.before_s / 60
                    + 3 * purged.travel.arc_time_s / 60,
                    1,
                ),
            )
        )

    def test_shades(self) -> None:
        self.rows(
            *(
                (choose_shade(a), s)
                for a, s in (
                    (15, 9),
                    (40, 9),
                    (40.5, 10),
                    (100, 10),
                    (100.5, 11),
                    (175, 11),
                    (175.5, 12),
                    (250, 12),
                    (250.5, 13),
                )
            )
        )


if __name__ == "__main__":
    unittest.main()
