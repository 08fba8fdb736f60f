"""Rows of the cautions on current, pulse, travel and heat."""

from __future__ import annotations

from tests.samples import member
from wisearc.core.shop.shop import (
    PulseRange,
)

from .joints import (
    DUPLEX,
    FLANGED,
    MACHINE,
    MILD,
    NO_PULSE,
    PULSED,
    Row,
    both,
    carbon_sheet,
    of,
    on,
    pins,
    rows,
)

ROWS: tuple[Row, ...] = (
    *rows(
        "background-too-low note pulse edge",
        (both(PULSED, **pins(peak_a=49.0)), both(PULSED, **pins(peak_a=50.0))),
    ),
    *rows(
        "chill-on-duplex caution pulse edge",
        ({"a": DUPLEX, "pulse": "slow-cold"}, {"a": DUPLEX, "pulse": "ripple"}),
    ),
    # The rule of thumb calculated manually: 39.37 × 1.5 × 0.87 = 51.4 A; 15 % off gives 59.1 and
    # 43.7.
    *rows(
        "current-off caution current butt",
        (pins(current_a=59.2), pins(current_a=59.0)),
        (pins(current_a=43.6), pins(current_a=43.8)),
    ),
    # 4 s from 1200 to 800 °C fine, 2 to 4 a note: 2205 at 1 mm 3.7 s, at 2 mm 8.4; 24 instead of 34
    # A cools in half the time
    *rows(
        "duplex-heat-low note heat butt",
        ({"a": member("2205", "1 mm")}, {"a": member("2205", "2 mm")}),
    ),
    *rows(
        "duplex-heat-low caution heat butt",
        (
            both(pins(current_a=24.0), a=member("2205", "1 mm")),
            both(pins(current_a=26.0), a=member("2205", "1 mm")),
        ),
    ),
    # 0.6 × 10.5 × 51.4 × t / (m × 0.5 J/g·K) = 130 K above 20 °C, with 2.667 mm/s over 100 mm:
    # 186.7 g
    *rows("hot-part caution heat butt", ({"part_mass_g": 186}, {"part_mass_g": 188})),
    *rows(
        "machine-too-big stop current butt",
        (
            {"a": of("0.5 mm"), "shop": on(least_a=18.0), "pulse": "none"},
            {"a": of("0.5 mm"), "shop": on(least_a=17.0), "pulse": "none"},
        ),
    ),
    *rows(
        "pulse-outside-machine caution pulse butt",
        (
            {"shop": on(pulse=PulseRange(0.5, 32.9)), "pulse": "fast"},
            {"shop": on(pulse=PulseRange(33, 33)), "pulse": "fast"},
        ),
        (
            {"shop": on(pulse=PulseRange(34, 250)), "pulse": "fast"},
            {"shop": on(pulse=PulseRange(33, 250)), "pulse": "fast"},
        ),
        (
            {"shop": on(pulse=PulseRange(2.1, 250)), "pulse": "slow-cold"},
            {"shop": on(pulse=PulseRange(2.0, 250)), "pulse": "slow-cold"},
        ),
    ),
    *rows(
        "no-remote caution current butt",
        ({"shop": on(controls=("slide",))}, {"shop": on(controls=("pedal",))}),
        ({"shop": on(controls=())}, {"shop": on(controls=()), "control": "none"}),
    ),
    *rows(
        "no-slopes caution current butt",
        ({"shop": on(slopes=False), "control": "none"}, {"shop": on(slopes=False)}),
    ),
    *rows(
        "machine-no-pulse caution pulse butt",
        ({"shop": NO_PULSE, "pulse": "fast"}, {"shop": NO_PULSE, "pulse": "pedal"}),
    ),
    *rows(
        "machine-too-small stop current butt",
        (pins(current_a=200.1), pins(current_a=200.0)),
        (both(MACHINE, **pins(current_a=200.1)), both(MACHINE, **pins(current_a=200.0))),
    ),
    *rows("out-of-range note current butt", ({"a": of("0.49 mm")}, {"a": of("0.5 mm")})),
    *rows("out-of-range note current tee", ({"a": of("3.21 mm")}, {"a": of("3.2 mm")})),
    *rows("out-of-range note current butt", ({"a": of("3.01 mm")}, {"a": of("3 mm")})),
    *rows(
        "out-of-range note current tube-plate",
        (
            both(FLANGED, b=member(thickness="12.1 mm", form="flange")),
            both(FLANGED, b=member(thickness="12 mm", form="flange")),
        ),
    ),
    *rows(
        "peak-too-high stop pulse edge",
        (both(PULSED, **pins(peak_a=200.1)), both(PULSED, **pins(peak_a=200.0))),
    ),
    *rows("pin-idle note pulse butt", (pins(peak_a=90.0), both(pins(peak_a=90.0), pulse="fast"))),
    # fast: mean = peak × (0.33 + 0.33 × 0.67) = 0.5511 peak; 15 % about 51.4 A is 43.7 to 59.1 A, a
    # peak of 79.2 to 107.2
    *rows(
        "pulse-off caution pulse butt",
        (both(pins(peak_a=107.5), pulse="fast"), both(pins(peak_a=106.9), pulse="fast")),
        (both(pins(peak_a=78.9), pulse="fast"), both(pins(peak_a=79.5), pulse="fast")),
    ),
    # a 1.2 mm corner takes peaks of about 62 A at 30 % on
    *rows(
        "pulse-off caution pulse outside-corner",
        (
            both(PULSED, a=of("1.2 mm"), **pins(peak_a=200.0, on_pct=50.0)),
            both(PULSED, a=of("1.2 mm"), **pins(peak_a=62.0)),
        ),
    ),
    *rows(
        "pulse-no-gain caution pulse outside-corner",
        (
            both(PULSED, a=carbon_sheet("1 mm"), filler="none"),
            both(PULSED, a=carbon_sheet("1.4 mm"), filler="none"),
        ),
    ),
    *rows(
        "pins-contradict caution pulse edge",
        (
            both(PULSED, a=of("0.5 mm"), **pins(peak_a=5.0)),
            both(PULSED, a=of("0.5 mm"), **pins(peak_a=30.0)),
        ),
    ),
    *rows(
        "pulse-flicker caution pulse butt",
        (both(pins(rate_pps=2.1), pulse="fast"), both(pins(rate_pps=2.0), pulse="fast")),
        (both(pins(rate_pps=29.9), pulse="fast"), both(pins(rate_pps=30.0), pulse="fast")),
    ),
    *rows("pulse-without-bars note pulse edge", (both(PULSED, back="purge"), PULSED)),
    *rows(
        "ride-slip caution current butt",
        ({"setting_school": "ride"}, {"setting_school": "ride", "control": "none"}),
    ),
    # 15 % of current: a 1.5 mm butt asks 0.76 at 2.667 mm/s; 15 % off at 3.21 and 2.12
    *rows(
        "travel-off caution travel butt",
        ({"travel_mm_s": 3.23}, {"travel_mm_s": 3.2}),
        ({"travel_mm_s": 2.1}, {"travel_mm_s": 2.14}),
        ({"travel_mm_s": 10}, {}),
        ({"travel_mm_s": 0.5}, {}),
    ),
    *rows(
        "thick-to-thin caution current butt",
        ({"a": of("1 mm"), "b": of("4.1 mm")}, {"a": of("1 mm"), "b": of("4 mm")}),
    ),
    *rows(
        "thick-capped note current butt",
        ({"a": of("1 mm"), "b": of("2.1 mm")}, {"a": of("1 mm"), "b": of("2 mm")}),
    ),
    *rows(
        "vertical-down caution travel edge",
        (
            {"a": of("1.51 mm"), "position": "vertical-down"},
            {"a": of("1.5 mm"), "position": "vertical-down"},
        ),
        (
            {"filler": "ER308L", "position": "vertical-down"},
            {"filler": "none", "position": "vertical-down"},
        ),
    ),
    *rows(
        "preheat note heat butt",
        ({"a": member("4130"), "service": "structural"}, {"a": MILD, "service": "structural"}),
    ),
)
