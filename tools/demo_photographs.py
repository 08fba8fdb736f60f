"""Render and measure the photographs of the demo: all of it is invented.

.venv/bin/python -m tools.demo_photographs
"""

from __future__ import annotations

import json
from pathlib import Path

from tests.rendered_photograph import Scene, encode, render
from wisearc.core.schema.documents import write_document
from wisearc.services.photographs.measuring import measure_picture

FOLDER = Path(__file__).parents[1] / "wisearc" / "services" / "maintenance" / "demo_photographs"
# A good bead and one that was welded too slowly, on the outside corner of the box.
SCENES = {
    "straw": Scene(
        seed=31,
        bead_mm=2.6,
        pitch_mm=1.45,
        film_nm=23.0,
        band_mm=3.2,
        seam_deg=-1.2,
        tilt_deg=12.0,
        kelvin=4300.0,
        gradient=1.5,
        noise=0.004,
        width_noise=0.02,
        clutter=2,
    ),
    "blue": Scene(
        seed=32,
        bead_mm=3.15,
        pitch_mm=1.17,
        pitch_noise=0.14,
        film_nm=57.0,
        band_mm=6.2,
        seam_deg=1.6,
        tilt_deg=16.0,
        tilt_to_deg=120.0,
        kelvin=3600.0,
        gradient=1.7,
        noise=0.005,
        clutter=3,
    ),
}


def main() -> None:
    """Write the files of the demo."""
    FOLDER.mkdir(exist_ok=True)
    for name, scene in SCENES.items():
        picture, _ = render(scene)
        measurement, straightened = measure_picture(picture, check_length_mm=100.0)
        (FOLDER / f"{name}.jpg").write_bytes(encode(picture, 72))
        (FOLDER / f"{name}-straightened.jpg").write_bytes(straightened)
        text = json.dumps(write_document(measurement), indent=1)
        (FOLDER / f"{name}.json").write_text(text + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
