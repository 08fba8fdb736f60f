"""Limits for an arc that a device senses by its microphone or its camera.

The device compares levels with them, and records nothing. All limits are estimates: a TIG arc
hisses above the noise of a hall. It is a small spot that is brighter than the rest of a picture.
"""

from __future__ import annotations

from msgspec import Struct


class SensingLimits(Struct, frozen=True):
    """The limits of one sense.

    `rise`: least rise of the level above its floor, dB or brightness from 0 to 255. `spreads`: the
    same in standard deviations of the floor. `apart`: how much more the level rises than the rest
    of the sound or picture. `flat`: least spectral flatness. `stay`: share of these limits that
    keeps a running arc. `sustain_s` and `share`: time of a start, and share of its readings.
    `release_s`: time without arc before a stop, longer than the background of a slow pulse.
    `noisy`: a spread of the floor that is too large. `max_floor`: a floor that leaves no room for a
    rise.
    """

    rise: float
    spreads: float
    apart: float
    flat: float
    stay: float
    sustain_s: float
    share: float
    release_s: float
    noisy: float
    max_floor: float


# The hiss lies above the noise of machines and voices, Hz.
HISS_HZ, REST_HZ = (4000.0, 12_000.0), (150.0, 2000.0)
ACOUSTIC = SensingLimits(10, 4, 10, 0.35, 0.5, 0.2, 0.85, 0.8, 6, 0)
OPTICAL = SensingLimits(60, 5, 50, 0, 0.5, 0.15, 0.8, 0.8, 20, 190)
