"""A measured photograph as text: figures with their uncertainty, tints, and what was refused."""

from __future__ import annotations

from msgspec import Struct

from ..core import catalogue
from ..core.photograph.measurement import REFUSED_NAMES, SIDES, Measurement
from ..core.quantities import length
from ..core.run.inspection import FACE_NAMES
from ..core.run.run import Run


class PhotoFigure(Struct, frozen=True):
    """A measured figure: label, value, uncertainty or "", and a note or ""."""

    label: str
    text: str
    uncertainty: str = ""
    note: str = ""


def list_figures(measurement: Measurement, units: str) -> list[PhotoFigure]:
    """Return the figures of a photograph.

    Args:
        measurement: Its measurements.
        units: Unit system, "mm" or "in".
    """
    bead, unsure = measurement.bead, measurement.uncertainty
    figures: list[PhotoFigure] = []

    if bead is not None:
        spread = f"varies by {length(bead.width_sd_mm).text(units)}"
        if bead.correction_mm:
            spread += f", corrected by {length(bead.correction_mm).text(units)}"
        figures += _list_length(units, "Bead width", bead.width_mm, unsure.width_mm, spread)
        even = ""
        if bead.pitch_mm and bead.pitch_sd_mm is not None:
            even = f"varies by {100 * bead.pitch_sd_mm / bead.pitch_mm:.0f} %"
        figures += _list_length(units, "Ripple pitch", bead.pitch_mm, unsure.pitch_mm, even)
    if measurement.tint is not None:
        tint = catalogue.load_tints()[measurement.tint].name
        figures.append(PhotoFigure("Hottest tint", tint))
        figures += _list_length(units, "Tint on each side", measurement.band_mm, unsure.band_mm)
    if bead is not None:
        figures += _list_length(units, "Length in view", bead.length_mm)
        figures += _list_length(units, "Off a straight line", bead.straightness_mm)
    over = measurement.bow_over_mm
    note = "" if over is None else f"over {length(over).text(units)}"
    return figures + _list_length(units, "Bow", measurement.bow_mm, unsure.bow_mm, note)


def _list_length(
    units: str, label: str, value_mm: float | None, off_mm: float | None = None, note: str = ""
) -> list[PhotoFigure]:
    """The figure of a length, or none."""
    if value_mm is None:
        return []
    off = "" if off_mm is None else f"± {length(off_mm).text(units)}"
    return [PhotoFigure(label, length(value_mm).text(units), off, note)]


def list_bands(measurement: Measurement, units: str) -> list[PhotoFigure]:
    """Return the tint bands of a photograph, without bare metal, from the toe outward.

    Args:
        measurement: Its measurements.
        units: Unit system, "mm" or "in".
    """
    tints = catalogue.load_tints()
    return [
        PhotoFigure(
            tints[band.tint].name,
            f"{length(band.from_mm).text(units)} to {length(band.to_mm).text(units)}",
            note=SIDES[band.side],
        )
        for band in measurement.tints
        if tints[band.tint].from_c is not None or tints[band.tint].above
    ]


def list_refused(measurement: Measurement) -> list[PhotoFigure]:
    """Return the figures that a photograph does not show, with the reasons.

    Args:
        measurement: Its measurements.
    """
    return [
        PhotoFigure(REFUSED_NAMES[refusal.what], refusal.why) for refusal in measurement.refused
    ]


def describe_view(face: str | None) -> str:
    """Return the view of a photograph: the name of its face, or "side view".

    Args:
        face: "front", "back" or None.
    """
    return FACE_NAMES[face] if face else "side view"


class MeasuredPhotographView(Struct, frozen=True):
    """A measured photograph of a run: its face, its straightened picture, and its figures."""

    face: str
    sha256: str
    figures: list[PhotoFigure]

    @property
    def summary(self) -> str:
        """Return the figures in one line."""
        parts = (" ".join((f.label.lower(), f.text, f.uncertainty)) for f in self.figures)
        return ", ".join(part.strip() for part in parts)


def list_measured_photographs(run: Run, units: str) -> list[MeasuredPhotographView]:
    """Return the measured photographs of a run.

    Args:
        run: The run.
        units: Unit system, "mm" or "in".
    """
    return [
        MeasuredPhotographView(
            describe_view(photo.face),
            photo.straightened,
            list_figures(photo.measured, units),
        )
        for photo in run.photographs
        if photo.measured is not None and photo.straightened
    ]
