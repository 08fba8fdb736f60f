"""Practised welds for tests: pieces, welds with one hidden slip, and welds at random."""

from __future__ import annotations

import random
from functools import cache
from typing import Any

from tests.samples import member, plan
from wisearc.core import catalogue
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.practice.judge import Judged, judge_seam
from wisearc.core.practice.piece import Piece, build_piece
from wisearc.core.practice.sheet import STEP_S
from wisearc.core.practice.simulated_welder import Slip, Tremor, simulate_weld
from wisearc.core.practice.track import Track, build_track
from wisearc.core.shop.shop import ASSUMED

DAY = "2026-05-04"
STEADY = Tremor()


@cache
def lesson_plan(key: str) -> Plan:
    """Return the plan of the seam of a lesson."""
    seam = catalogue.load_lessons()[key].seam
    assert seam is not None
    return make_plan(make_joint(seam.joint), ASSUMED)


@cache
def lesson_piece(key: str, length_mm: float = 30.0, has_stop: bool = False) -> Piece:
    """Return a short piece of the seam of a lesson."""
    return build_piece(lesson_plan(key), length_mm, has_stop)


@cache
def pulsed_piece(has_stop: bool = False) -> Piece:
    """Return a piece with a slow pulse: an outside corner in thin sheet on bars."""
    made = plan("outside-corner", member(metal="316L", thickness="1.2 mm"), length_mm=300)
    return build_piece(made, 30.0, has_stop)


def tremble(seed: int, share: float = 0.03) -> Tremor:
    """Return the small unevenness of a welder, from a seed."""
    chance = random.Random(seed)
    draws = tuple(chance.gauss(0, 1) for _ in range(4001))
    return Tremor(share, share / 2, 0.08, share, draws)


def weld(piece: Piece, key: str = "", amount: float = 0.0, tremor: Tremor = STEADY) -> Judged:
    """Return a judged weld with one slip."""
    return judge_seam(simulate_weld(piece, Slip(key, amount), tremor).seam, ASSUMED, DAY)


def weld_at_random(piece: Piece, seed: int) -> Track:
    """Return the track of somebody who moves and presses at random."""
    chance = random.Random(seed)
    x, y, current, speed, slide, pressed = piece.start_mm, 0.0, 0.0, 0.0, 0.0, 0.0
    rows: list[Any] = []
    dabs = []
    for n in range(int(15 / STEP_S)):
        if n % 12 == 0:
            speed = chance.uniform(-4, 4) * piece.travel_mm_s
            slide, pressed = chance.uniform(-6, 6), chance.uniform(0, 1.6) * piece.peak_a
        x = min(piece.length_mm, max(0.0, x + speed * STEP_S))
        y = min(8.0, max(-8.0, y + slide * STEP_S))
        current += 0.2 * (pressed - current)
        rows.append(((n + 0.5) * STEP_S, x, y, current))
        if chance.random() < 0.02:
            dabs.append((n + 1) * STEP_S)
    return build_track(rows, dabs)
