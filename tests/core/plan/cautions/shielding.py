"""Rows of the cautions on gas and the back."""

from __future__ import annotations

from tests.samples import member
from wisearc.core.shop.shop import Bar, Cylinder

from .joints import DUPLEX, LONG_GAP, MILD, ROUND, Row, both, of, on, pins, rows, shelf

ROWS: tuple[Row, ...] = (
    *rows(
        "aluminium-under-root caution back butt",
        ({"back": "aluminium-bar"}, {"back": "copper-bar"}),
    ),
    *rows(
        "aluminium-under-root caution back lap", ({"back": "aluminium-bar"}, {"back": "steel-bar"})
    ),
    *rows(
        "back-bare caution back butt",
        ({"back": "open"}, {"back": "purge"}),
        ({"back": "open", "service": "hot"}, {"a": MILD, "back": "open"}),
    ),
    *rows(
        "back-bare stop back butt",
        ({"back": "open", "service": "wet"}, {"back": "open", "service": "hot"}),
        ({"back": "open", "service": "structural"}, {"back": "open"}),
        ({"back": "flux", "service": "food"}, {"back": "flux", "service": "wet"}),
    ),
    *rows("back-bare stop back tube-butt", (both(ROUND, back="flux"), both(ROUND, back="purge"))),
    *rows("back-bare caution back tube-butt", (both(ROUND, back="copper-bar"), ROUND)),
    *rows(
        "back-bare caution back butt",
        ({"back": "copper-bar", "back_access": "closed"}, {"back": "copper-bar"}),
    ),
    *rows(
        "chill-on-duplex caution back butt",
        ({"a": DUPLEX, "back": "steel-bar"}, {"a": DUPLEX, "back": "purge"}),
    ),
    *rows("closed-space-argon note back butt", ({"back": "purge"}, {"back": "copper-bar"})),
    *rows(
        "flux-stays caution back butt",
        ({"back": "flux"}, {"back": "flux", "finish": "sound"}),
        (
            {"back": "flux", "finish": "sound", "service": "wet"},
            {"back": "flux", "finish": "sound", "service": "hot"},
        ),
    ),
    *rows("fume-flux note back butt", ({"back": "flux"}, {"back": "purge"})),
    # 0.45 m/s through a no. 16: π/4 × 25.4² mm² × 0.45 m/s = 13.68 L/min; the floor of 10 CFH is
    # 4.72 L/min
    *rows(
        "gas-too-slow caution gas butt",
        (pins(cup=16, flow_l_min=13.6), pins(cup=16, flow_l_min=13.7)),
        (pins(cup=6, flow_l_min=4.71), pins(cup=6, flow_l_min=4.73)),
    ),
    # Re = 4 Q / π D ν: in a no. 8 lens 2000 at 16.04 L/min, 2300 at 18.45; a plain body from 1800,
    # 14.43
    *rows(
        "gas-turbulent caution gas butt",
        (pins(cup=8, flow_l_min=16.1), pins(cup=8, flow_l_min=16.0)),
    ),
    *rows(
        "gas-turbulent stop gas butt", (pins(cup=8, flow_l_min=18.5), pins(cup=8, flow_l_min=18.4))
    ),
    *rows(
        "gas-turbulent caution gas butt",
        (
            pins(cup=8, front_end="plain", flow_l_min=14.5),
            pins(cup=8, front_end="plain", flow_l_min=14.4),
        ),
    ),
    *rows(
        "timer-short caution gas butt",
        (
            {"shop": on(postflow_most_s=9.9), **pins(postflow_s=10)},
            {"shop": on(postflow_most_s=10), **pins(postflow_s=10)},
        ),
        ({"shop": on(preflow_most_s=0.4)}, {"shop": on(preflow_most_s=0.5)}),
    ),
    *rows(
        "argon-short caution gas butt",
        (
            {"shop": shelf(cylinders=(Cylinder(water_l=5, bar=5),))},
            {"shop": shelf(cylinders=(Cylinder(water_l=50, bar=50),))},
        ),
        ({"shop": shelf(cylinders=(Cylinder("argon-hydrogen", 50, 200),))}, {"shop": shelf()}),
    ),
    *rows(
        "pin-idle note back butt",
        (both(pins(purge_l_min=4.0), back="open"), both(pins(purge_l_min=4.0), back="purge")),
    ),
    *rows(
        "postflow-short caution gas butt",
        (pins(postflow_s=4.1), pins(postflow_s=4.2)),
        (
            both(pins(postflow_s=3.4), a=member("mild-steel", "0.6 mm"), back="open"),
            both(pins(postflow_s=3.5), a=member("mild-steel", "0.6 mm"), back="open"),
        ),
        (
            both(pins(postflow_s=11.5), a=of("2.4 mm"), back="purge"),
            both(pins(postflow_s=11.6), a=of("2.4 mm"), back="purge"),
        ),
    ),
    *rows(
        "postflow-long note gas butt",
        (
            {"a": of("3.2 mm"), "back": "purge"},
            {"a": of("3.1 mm"), "back": "purge"},
        ),
    ),
    # Q = u·A over 300 mm of the seam: 0.17/1.5 m/s × 0.3 mm × 300 mm = 0.612 L/min; at 0.8 mm
    # 1.147; from 1.7 mm 0.1 m/s, 0.54
    *rows(
        "purge-outflow caution back butt",
        (both(LONG_GAP, **pins(purge_l_min=0.61)), both(LONG_GAP, **pins(purge_l_min=0.62))),
        (
            both(LONG_GAP, a=of("0.8 mm"), **pins(purge_l_min=1.14)),
            both(LONG_GAP, a=of("0.8 mm"), **pins(purge_l_min=1.15)),
        ),
        (
            both(LONG_GAP, a=of("2 mm"), **pins(purge_l_min=0.53)),
            both(LONG_GAP, a=of("2 mm"), **pins(purge_l_min=0.55)),
        ),
    ),
    # 200 L are ten volumes of 20 L, of which 0.15 L are hose; 10 minutes at 25 L/min are 25 L
    *rows(
        "purge-long caution back tube-butt",
        (both(ROUND, purge_volume_l=19.86), both(ROUND, purge_volume_l=19.84)),
    ),
    *rows(
        "bars-flat note back butt",
        (
            {"shop": shelf(bars=(Bar("copper", 100.0, count=2),))},
            {"shop": shelf(bars=(Bar("copper", 100.0, grooved=True, count=2),))},
        ),
    ),
    *rows(
        "dry-bars caution back butt",
        ({"service": "wet", "bar_gas": "no"}, {"bar_gas": "no"}),
        ({"service": "food", "bar_gas": "no"}, {"service": "food"}),
    ),
    *rows("sealed-vessel note back tube-butt", (ROUND, both(ROUND, back="open"))),
    # a fillet's back: 1450 − 1110 t / 2.5 °C; straw 370 at 2.43 mm, glowing 525 at 2.08 mm
    *rows(
        "back-tints caution back tee",
        ({"a": of("2.42 mm"), "back": "open"}, {"a": of("2.44 mm"), "back": "open"}),
    ),
    *rows(
        "back-tints note back tee",
        (
            {"a": of("2.42 mm"), "back": "open", "finish": "sound"},
            {"a": of("2.44 mm"), "back": "open", "finish": "sound"},
        ),
    ),
    *rows(
        "back-bare caution back tee",
        ({"a": of("2.07 mm"), "back": "open"}, {"a": of("2.09 mm"), "back": "open"}),
    ),
)
