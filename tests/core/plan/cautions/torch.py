"""Rows of the cautions on torch and tungsten."""

from __future__ import annotations

from wisearc.core.shop.shop import Machine, Shop, TungstenStock

from .joints import COPE, MACHINE, NINE, PULSED, Row, both, of, on, pins, rows, shelf

ROWS: tuple[Row, ...] = (
    *rows("cover-short caution torch butt", (pins(cup=4, flow_l_min=6.0), pins(cup=16))),
    *rows("cover-short note torch butt", ({"a": of("3.2 mm"), "back": "purge"}, {})),
    *rows("cover-short caution torch butt", (pins(cup=4), both(pins(cup=4), finish="sound"))),
    *rows(
        "cup-eats-argon note torch butt",
        (both(pins(cup=14), length="151 mm"), both(pins(cup=14), length="150 mm")),
        (both(pins(cup=14), length="400 mm"), both(pins(cup=12), length="400 mm")),
    ),
    *rows(
        "torch-peak note torch outside-corner",
        (
            both(PULSED, shop=NINE, pins={"peak_a": 126}),
            both(PULSED, shop=NINE, pins={"peak_a": 125}),
        ),
    ),
    *rows(
        "nothing-owned-works note torch butt",
        (
            {"shop": on(most_a=45.0, least_a=5.0)},
            {"shop": Shop(machines=(Machine("m", most_a=45.0), Machine("n")))},
        ),
    ),
    *rows(
        "not-on-shelf caution torch butt",
        ({"shop": shelf(parts=())}, {"shop": shelf()}),
        (
            {"shop": shelf(tungstens=(TungstenStock("thoriated-2", 1.6),))},
            {"shop": shelf(tungstens=(TungstenStock("ceriated-2", 1.6),))},
        ),
    ),
    # a small torch has collet-body cups to no. 8
    *rows(
        "cup-not-made caution torch butt",
        (
            both(pins(cup=10, front_end="plain"), shop=NINE),
            both(pins(cup=8, front_end="plain"), shop=NINE),
        ),
    ),
    # the rod of 1.0 mm carries 80 A, of 1.6 mm 150; AWS C5.5, from memory: the 1.6 mm tip of 30° 70
    # A steady, peaks and tacks of 140
    *rows(
        "peak-too-high stop tungsten butt",
        (pins(current_a=80.1, tungsten_mm=1.0), pins(current_a=80.0, tungsten_mm=1.0)),
    ),
    *rows(
        "tip-overrun caution tungsten butt",
        (pins(current_a=70.52, tungsten_mm=1.6), pins(current_a=70.48, tungsten_mm=1.6)),
    ),
    *rows(
        "tip-overrun caution tungsten edge",
        (
            both(PULSED, **pins(peak_a=140.6, tungsten_mm=1.6)),
            both(PULSED, **pins(peak_a=139.9, tungsten_mm=1.6)),
        ),
    ),
    *rows("tip-overrun caution tungsten butt", ({"tip_school": "needle"}, {})),
    *rows("pedal-over-tip note tungsten butt", (pins(current_a=55.6), pins(current_a=55.4))),
    *rows(
        "stickout-caution caution torch butt",
        (pins(cup=8, stickout_mm=12.8), pins(cup=8, stickout_mm=12.7)),
        (pins(cup=12, stickout_mm=19.1), pins(cup=12, stickout_mm=19.0)),
        (pins(cup=8, stickout_mm=22.3), both(pins(cup=8, stickout_mm=22.2), reach_school="long")),
        (
            pins(front_end="plain", cup=8, stickout_mm=6.5),
            pins(front_end="plain", cup=8, stickout_mm=6.4),
        ),
        (
            pins(front_end="plain", cup=4, stickout_mm=6.4),
            pins(front_end="plain", cup=4, stickout_mm=6.3),
        ),
    ),
    *rows(
        "stickout-too-long stop torch butt",
        (pins(cup=8, stickout_mm=25.5), pins(cup=8, stickout_mm=25.4)),
        (pins(cup=6, stickout_mm=19.1), pins(cup=6, stickout_mm=19.0)),
        (pins(cup=12, stickout_mm=38.2), pins(cup=12, stickout_mm=38.1)),
        (
            pins(front_end="plain", cup=8, stickout_mm=9.6),
            pins(front_end="plain", cup=8, stickout_mm=9.5),
        ),
    ),
    # below about 34° no cup passes on the bisector
    *rows(
        "stickout-too-long stop torch tube-cope",
        (both(COPE, angle_deg=33), both(COPE, angle_deg=34)),
    ),
    *rows(
        "stickout-draught note torch butt",
        (pins(cup=12, stickout_mm=16.1), pins(cup=12, stickout_mm=16.0)),
        (
            both(pins(cup=8, stickout_mm=12.8), reach_school="long"),
            both(pins(cup=8, stickout_mm=12.7), reach_school="long"),
        ),
    ),
    *rows(
        "tail-uncovered note torch butt", ({"back": "purge"}, {"back": "purge", "finish": "sound"})
    ),
    *rows(
        "thoria caution tungsten butt",
        (pins(tungsten_type="thoriated-2"), pins(tungsten_type="ceriated-2")),
    ),
    # a no. 17 torch carries 150 A; from 0.8 of it, 120 A, it is rested
    *rows(
        "torch-overrun stop torch butt",
        (both(MACHINE, **pins(current_a=150.1)), both(MACHINE, **pins(current_a=150.0))),
    ),
    *rows(
        "torch-overrun note torch butt",
        (both(MACHINE, **pins(current_a=120.1)), both(MACHINE, **pins(current_a=120.0))),
    ),
    # AWS C5.5, from memory: a 3.2 mm tip runs steady from 20 A
    *rows(
        "tungsten-too-big caution tungsten butt",
        (
            both(MACHINE, **pins(current_a=19.9, tungsten_mm=3.2)),
            both(MACHINE, **pins(current_a=20.0, tungsten_mm=3.2)),
        ),
    ),
)
