"""Measurements of a photograph: bead, ripples, tints and bow, each with its uncertainty."""

from typing import Annotated

from msgspec import Struct

from .. import catalogue
from ..schema.entries import Entry, Option, list_options

# Each uncertainty is two standard deviations.
SIDES = {"left": "side away from the card", "right": "side of the card"}
REFUSED_NAMES = {
    "width": "Bead width",
    "pitch": "Ripple pitch",
    "tint": "Heat tint",
    "ends": "Start and stop",
    "bow": "Bow",
}
MAX_TINTS, MAX_REFUSED, MAX_WHY = 60, 10, 300


def _list_tint_names() -> dict[str, Option]:
    return {tint.key: Option(tint.name) for tint in catalogue.load_tints().values()}


def _mm(label: str, high: float = 2000.0, low: float = 0.0, null: bool = False) -> Entry:
    return Entry(
        "number", label=label, quantity="length", low=low, high=high, required=not null, null=null
    )


class CardInPhoto(Struct, frozen=True):
    """The card in a photograph.

    Attributes:
        kind: "card", or "strip" of a printed sheet.
        markers: Number of its markers in the picture.
        plane_error_mm: Distance of the markers from one plane.
        tilt_deg: Angle between the view and a view square on.
        check_length_mm: The check length that was typed, or None.
    """

    found: Annotated[bool, Entry("flag", required=True)]
    markers: Annotated[float, Entry("number", high=4, required=True)]
    plane_error_mm: Annotated[float, _mm("Distance of the markers from one plane")]
    kind: Annotated[str, Entry("name", names=list_options(("card", "strip")))] = "card"
    tilt_deg: Annotated[float, Entry("number", label="Tilt of the view", high=90)] = 0.0
    check_length_mm: Annotated[float | None, _mm("Check length", 120, 80, null=True)] = None


class MeasuredBead(Struct, frozen=True):
    """The bead along a photograph.

    Attributes:
        width_sd_mm: Standard deviation of its width along the seam.
        correction_mm: The correction of the shop that the width has, by callipers.
        drift_mm: Change of its width over 100 mm, from the start of the card on.
        pitch_sd_mm: Standard deviation of the ripples' distances.
        length_mm: Measured length.
        straightness_mm: Maximum distance of its middle from a straight line.
        start_mm: Where it starts along the card's edge, or None where it runs out of view.
        stop_mm: Where it ends, or None.
    """

    width_mm: Annotated[float, _mm("Bead width")]
    width_sd_mm: Annotated[float, _mm("Spread of the width")]
    length_mm: Annotated[float, _mm("Length in view")]
    straightness_mm: Annotated[float, _mm("Straightness")]
    correction_mm: Annotated[float, _mm("Correction of the shop in the width", 5, -5)] = 0.0
    drift_mm: Annotated[float, _mm("Change of width over 100 mm", 100, -100)] = 0.0
    pitch_mm: Annotated[float | None, _mm("Ripple pitch", null=True)] = None
    pitch_sd_mm: Annotated[float | None, _mm("Spread of the pitch", null=True)] = None
    start_mm: Annotated[float | None, _mm("Start", 500, -500, null=True)] = None
    stop_mm: Annotated[float | None, _mm("Stop", 500, -500, null=True)] = None


class TintBand(Struct, frozen=True):
    """A band of one tint beside the bead: distances from the toe, and its colour difference."""

    side: Annotated[str, Entry("name", names=list_options(SIDES), required=True)]
    tint: Annotated[str, Entry("name", names=_list_tint_names, required=True)]
    from_mm: Annotated[float, _mm("From")]
    to_mm: Annotated[float, _mm("To")]
    delta_e: Annotated[float, Entry("number", high=200, required=True)]


class Uncertainty(Struct, frozen=True):
    """Two standard deviations of the figures. None: not measured."""

    width_mm: Annotated[float | None, _mm("Bead width", null=True)] = None
    pitch_mm: Annotated[float | None, _mm("Ripple pitch", null=True)] = None
    band_mm: Annotated[float | None, _mm("Tinted width", null=True)] = None
    bow_mm: Annotated[float | None, _mm("Bow", null=True)] = None


class Refusal(Struct, frozen=True):
    """A figure that a photograph does not show, and why."""

    what: Annotated[str, Entry("name", names=list_options(REFUSED_NAMES), required=True)]
    why: Annotated[str, Entry("text", high=MAX_WHY, required=True)]


class Measurement(Struct, frozen=True):
    """What was measured in a photograph.

    Attributes:
        scale_mm_px: Length of a pixel at the seam.
        bead: The bead, or None in a side view.
        tints: The bands from each toe outward.
        tint: Key of the hottest tint, or None.
        band_mm: Tinted width of one side, the mean of both, or None.
        bow_mm: Maximum distance of the edge from a straight line, or None.
        bow_over_mm: The length over which it was measured, or None.
    """

    scale_mm_px: Annotated[float, _mm("Length of a pixel")]
    card: Annotated[CardInPhoto, Entry("object", of=CardInPhoto, required=True)]
    bead: Annotated[MeasuredBead | None, Entry("object", of=MeasuredBead)] = None
    tints: Annotated[tuple[TintBand, ...], Entry("objects", of=TintBand, most=MAX_TINTS)] = ()
    tint: Annotated[str | None, Entry("name", names=_list_tint_names)] = None
    band_mm: Annotated[float | None, _mm("Tinted width", null=True)] = None
    bow_mm: Annotated[float | None, _mm("Bow", null=True)] = None
    bow_over_mm: Annotated[float | None, _mm("Length of the bow", null=True)] = None
    uncertainty: Annotated[Uncertainty, Entry("object", of=Uncertainty)] = Uncertainty()
    refused: Annotated[tuple[Refusal, ...], Entry("objects", of=Refusal, most=MAX_REFUSED)] = ()

    def explain_refusal(self, figure: str) -> str | None:
        """Return why a figure was not measured, or None."""
        return next((r.why for r in self.refused if r.what == figure), None)
