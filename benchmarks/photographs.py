"""How well rendered photographs are measured: widths, pitches, tints, and refusals.

python -m benchmarks.photographs [NUMBER] [FIRST]: a number of good photographs and half as many
spoiled ones. The time of a 12-megapixel photograph is given in times of decoding its file.
"""

from __future__ import annotations

import sys
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from tests.photo_scenes import (
    SPOILED,
    count_tint_steps,
    is_right,
    random_scene,
    read_truth,
    spoiled_scene,
)
from tests.rendered_photograph import encode, render
from wisearc.core.errors import InputError
from wisearc.photo.measure import measure_photograph
from wisearc.photo.picture import read_picture


def measure_good(seed: int) -> tuple[str, bool, bool, bool, list[int], str]:
    """Return the result of a photograph that can be measured."""
    scene = random_scene(seed)
    picture, painted = render(scene)
    truth = read_truth(painted)
    try:
        found = measure_photograph(read_picture("x.jpg", encode(picture, scene.quality)))
    except InputError as error:
        return f"{seed}: refused: {error.rule}", False, False, False, [], "refused"
    m = found.measurement
    assert m.bead is not None
    right = is_right(m.bead.width_mm, truth.width_mm, 0.15)
    pitch = m.bead.pitch_mm is None or is_right(m.bead.pitch_mm, truth.pitch_mm, 0.0)
    sure = abs(m.bead.width_mm - truth.width_mm) <= (m.uncertainty.width_mm or 0)
    steps = count_tint_steps(m, truth)
    note = ""
    if not (right and pitch) or max(steps, default=0) > 1:
        note = f"{seed}: width {m.bead.width_mm} ({truth.width_mm:.2f}), pitch {m.bead.pitch_mm} "
        note += f"({truth.pitch_mm:.2f}), tint steps {steps}"
    return note, right, pitch, sure, steps, "" if m.bead.pitch_mm else "no pitch"


def measure_spoiled(kind_and_seed: tuple[str, int]) -> tuple[str, str]:
    """Return "refused", "right" or "wrong" for a spoiled photograph, and a note."""
    kind, seed = kind_and_seed
    scene = spoiled_scene(kind, seed)
    picture, painted = render(scene)
    truth = read_truth(painted)
    try:
        found = measure_photograph(read_picture("x.jpg", encode(picture, scene.quality)))
    except InputError:
        return "refused", ""
    m = found.measurement
    assert m.bead is not None
    if kind == "brass" and m.tint is None:
        return "refused", ""
    wrong = not is_right(m.bead.width_mm, truth.width_mm, 0.15)
    note = f"{kind} {seed}: width {m.bead.width_mm} ({truth.width_mm:.2f}), tint {m.tint}"
    return "wrong" if wrong else "right", note


def measure_time() -> None:
    """Print the time of a 12-megapixel photograph."""
    scene = random_scene(5, (4000, 3000))
    data = encode(render(scene)[0], 90)
    read_s, measure_s = [], []
    for _ in range(5):
        start = time.perf_counter()
        picture = read_picture("x.jpg", data)
        middle = time.perf_counter()
        measure_photograph(picture)
        read_s.append(middle - start)
        measure_s.append(time.perf_counter() - middle)
    read, measured = min(read_s), min(measure_s)
    print(f"12 MP: decoded in {read:.2f} s, measured in {measured:.2f} s ({measured / read:.1f} ×)")


def main() -> None:
    """Print the shares of right results."""
    number = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 1000
    with ProcessPoolExecutor(2) as pool:
        good = list(pool.map(measure_good, range(first, first + number)))
        kinds = [(SPOILED[n % len(SPOILED)], first + n) for n in range(number // 2)]
        spoiled = list(pool.map(measure_spoiled, kinds))
    measured = [r for r in good if r[5] != "refused"]
    steps = np.array([step for r in measured for step in r[4]])
    for note in [*(r[0] for r in good), *(note for _, note in spoiled)]:
        if note:
            print(" ", note)
    print(f"good: {number}, refused {number - len(measured)}")
    print(f"width within 5 % or 0.15 mm: {np.mean([r[1] for r in measured]):.1%}")
    print(f"width within its uncertainty: {np.mean([r[3] for r in measured]):.1%}")
    print(f"pitch within 5 %, where given: {np.mean([r[2] for r in measured]):.1%}")
    print(f"pitch not given: {np.mean([r[5] == 'no pitch' for r in measured]):.1%}")
    print(f"tint right: {np.mean(steps == 0):.1%}, within one: {np.mean(steps <= 1):.1%}")
    print(f"spoiled: {len(spoiled)}: {dict(Counter(result for result, _ in spoiled))}")
    measure_time()


if __name__ == "__main__":
    main()
