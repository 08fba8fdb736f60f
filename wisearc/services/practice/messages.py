"""Messages between pages and the process of the virtual seams, one line each."""

from __future__ import annotations

import re

import msgspec
from msgspec import Struct

from ...core.errors import InputError

# The kinds of requests.
OPEN, STEP, JUDGE, SHOW = "open", "step", "judge", "show"
_KEY = re.compile(r"[A-Za-z0-9_-]{16,64}")


class SeamRequest(Struct, frozen=True, omit_defaults=True):
    """A request about a virtual seam.

    Its number, what it asks for, the key of the seam, the plan and the shop as data, the length of
    the piece mm, whether a stop or tacks are practised, samples and dabs, and when the gas was shut
    off s.
    """

    id: int
    ask: str
    seam: str = ""
    plan: msgspec.Raw = msgspec.Raw(b"null")
    shop: msgspec.Raw = msgspec.Raw(b"null")
    length_mm: float | None = None
    has_stop: bool = False
    has_tacks: bool = False
    samples: list[tuple[float, float, float, float]] = []
    dabs: list[float] = []
    gas_off_s: float | None = None
    when: str = ""


class SeamBody(Struct, frozen=True):
    """The body of a request: key of the seam, samples, dabs, and when the gas was shut off s."""

    seam: str = ""
    samples: list[tuple[float, float, float, float]] = []
    dabs: list[float] = []
    gas_off_s: float | None = None
    once: str = ""


def read_step(raw: bytes) -> SeamBody:
    """Return the body of a request.

    Args:
        raw: The body as JSON.

    Raises:
        InputError: It is not valid.
    """
    try:
        body = msgspec.json.decode(raw, type=SeamBody)
    except msgspec.DecodeError as error:
        raise InputError("track", None, f"cannot be read ({error})") from error
    if body.seam and not _KEY.fullmatch(body.seam):
        raise InputError("seam", body.seam, "is not the key of a seam")
    return body


class SeamReply(Struct, frozen=True):
    """The answer to a request: its number, body as JSON or error, or the end of the process."""

    id: int
    body: msgspec.Raw = msgspec.Raw(b"")
    error: str = ""
    ended: bool = False


class SlipView(Struct, frozen=True):
    """A slip of a judged try: key, sentence in mm and in inches, and its place mm or None."""

    key: str
    text: str
    text_in: str
    at_mm: float | None = None

    def get_text(self, units: str) -> str:
        """Return its sentence in a unit system."""
        return self.text_in if units == "in" else self.text


class ChangeView(Struct, frozen=True):
    """The one thing to change: sentence in mm and in inches, and the observation to make."""

    text: str
    text_in: str = ""
    watch: str = ""

    def get_text(self, units: str) -> str:
        """Return its sentence in a unit system."""
        return (self.text_in or self.text) if units == "in" else self.text


class JudgedTry(Struct, frozen=True):
    """A judged try, as in a practice file, with its complete bead."""

    score: float
    scores: dict[str, float | None]
    slips: list[SlipView]
    faults: list[str]
    verdict: str
    why: str
    change: ChangeView | None
    travel_mm_s: list[tuple[float, float]]
    current_a: list[tuple[float, float]]
    frame: msgspec.Raw


class PieceView(Struct, frozen=True):
    """A piece for its drawing: lengths mm, times s, currents A, columns along and nodes across."""

    length_mm: float
    start_mm: float
    end_mm: float
    stop_mm: float | None
    tack_marks_mm: tuple[float, ...]
    column_mm: float
    first_mm: float
    columns: int
    across_mm: list[float]
    target_mm: float
    travel_mm_s: float
    peak_a: float
    mean_a: float
    beat_s: float | None
    dab_pitch_mm: float | None
    taper_s: float
    up_s: float
    min_arc_a: float
    postflow_s: float
    preflow_s: float
    pool_limit_s: float
    cover_mm: float
    gap_mm: float
    slow_pulse: bool
    rate_pps: float | None
    sides: tuple[float, float]
    step_s: float
    plan_s: float


class SeamFrame(Struct, frozen=True, omit_defaults=True):
    """What changed in a seam: to be drawn.

    Number of steps and time s, pool width and length mm, whether arc and gas are on, what comes
    next, the pool as its first column and edges in 1/100 mm, changed columns of the bead as
    (column, left, right, deposit in 1/100 mm²), and of the tints as (column, face, root), one
    digit for each node.
    """

    n: int
    t: float
    w: float = 0.0
    l: float = 0.0  # noqa: E741
    arc: bool = False
    gas: bool = False
    due: str = ""
    at: int = 0
    pool: list[list[int]] = []
    bead: list[list[int]] = []
    tint: list[tuple[int, str, str]] = []
    holes: list[float] = []
    dabs: list[tuple[float, bool]] = []
