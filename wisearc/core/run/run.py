"""A run as it was made: what was set, used, measured and seen, as one document.

Each field is declared once, on its type; the run file and its schema, the run form, the
comparison with the plan and the allowed ranges are read from the declarations.
"""

from collections.abc import Mapping
from functools import cache
from typing import Annotated, Any

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..errors import InputError
from ..plan.plan import Declared, Plan, list_declared_figures
from ..schema import checks
from ..schema.documents import read_document, write_document
from ..schema.entries import Entry, Option, Own, list_options, read_entries
from ..schema.figures import Figure
from ..schema.json_types import Json, JsonObject
from .inspection import BACK_COLOURS, FACE_NAMES, FACES, FRONT_COLOURS, LOOKS, Inspection
from .saved_reading import SavedReading

NO_ROD = "none"
NO_INITIALS = "Enter your initials, so that other welders can ask you"
# what a form asks for where it was left out
WANTED = {
    "who": f"{NO_INITIALS}.",
    **{face: f"Select the tint of the {FACE_NAMES[face]}." for face in FACES},
}
MAX_NAME, MAX_ROD_NAME, MAX_NOTES, MAX_FILE_NAME = 60, 40, 4000, 200
# the most that one revision holds, an estimate: years of daily runs, and no more than one file
# carries out and in again
MAX_RUNS, MAX_RUNS_BYTES = 2000, 2_000_000
MAX_PHOTOGRAPHS, MAX_EXCURSIONS = 100, 500
# where a coupon gave way, bent or hammered; in the sheet is good
ENDS = {
    "sheet": "in the sheet",
    "toe": "at the toe",
    "weld": "in the weld",
    "held": "did not break",
}
SOUND_ENDS = ("sheet", "held")
RUST_TESTS = {
    "kitchen": "peroxide, vinegar and salt",
    "copper-sulphate": "copper sulphate",
    "ferroxyl": "ferroxyl",
    "wet-dry": "wet and dry",
}
# a mix of peroxide, vinegar and salt shows rust in 2 to 10 minutes on bad metal, and nothing after
# 8 on good: common practice
MIN_KITCHEN_MIN = 8.0


def _declare_figure(label: str, quantity: str, low: float, high: float, planned: str = "") -> Entry:
    return Entry("number", label=label, quantity=quantity, low=low, high=high, planned=planned)


class Settings(Struct, frozen=True):
    """What was set on the machine; None where it was not told."""

    current_a: Annotated[
        float | None, _declare_figure("Current setting", "current", 1, 500, "slopes.machine_a")
    ] = None
    rate_pps: Annotated[
        float | None, _declare_figure("Pulse frequency", "rate", 0.1, 500, "pulse.rate_pps")
    ] = None
    on_pct: Annotated[
        float | None, _declare_figure("Peak time", "percent", 1, 99, "pulse.on_pct")
    ] = None
    background_pct: Annotated[
        float | None, _declare_figure("Background", "percent", 1, 99, "pulse.background_pct")
    ] = None
    flow_l_min: Annotated[
        float | None, _declare_figure("Argon", "flow", 1, 60, "gas.flow_l_min")
    ] = None
    postflow_s: Annotated[
        float | None, _declare_figure("Post-flow", "seconds", 0, 60, "gas.postflow_s")
    ] = None


class Used(Struct, frozen=True):
    """What was used, and the gap as it was found; None where it was not told."""

    rod: Annotated[
        str | None,
        Entry("text", label="Rod", quantity="word", high=MAX_ROD_NAME, planned="filler.rod"),
    ] = None
    rod_mm: Annotated[
        float | None, _declare_figure("Rod diameter", "stock", 0.3, 6, "filler.diameter_mm")
    ] = None
    cup: Annotated[float | None, _declare_figure("Cup", "count", 3, 24, "torch.cup")] = None
    gap_mm: Annotated[float | None, _declare_figure("Measured gap", "length", 0, 10)] = None


class Measured(Struct, frozen=True):
    """What was measured; None where it was not told."""

    peak_a: Annotated[float | None, _declare_figure("Measured peak", "current", 1, 500)] = None
    arc_time_s: Annotated[float | None, _declare_figure("Arc time", "seconds", 1, 36000)] = None
    length_mm: Annotated[float | None, _declare_figure("Welded length", "length", 1, 20000)] = None
    rods: Annotated[float | None, _declare_figure("Rods used", "number", 0, 1000)] = None
    bead_mm: Annotated[float | None, _declare_figure("Bead width", "length", 0.2, 30)] = None
    bow_mm: Annotated[float | None, _declare_figure("Bow", "length", 0, 200)] = None


def _purge(label: str, high: float) -> Entry:
    return Entry("number", label=label, high=high, required=True)


def _declare_unmeasured(label: str, high: float) -> Entry:
    return Entry("number", label=label, high=high, null=True)


class Purge(Struct, frozen=True):
    """How a run was purged behind; None where it was not measured."""

    volume_l: Annotated[float, _purge("Purge volume", 2000)]
    flow_l_min: Annotated[float, _purge("Purge flow", 60)]
    weld_l_min: Annotated[float, _purge("Flow during the weld", 60)]
    target_ppm: Annotated[float, _purge("Oxygen target", 1e6)]
    before_s: Annotated[float, _purge("Time before the arc", 1e6)]
    after_s: Annotated[float, _purge("Time after the arc", 1e6)]
    argon_l: Annotated[float, _purge("Backing argon", 1e6)]
    held: Annotated[bool, Entry("flag", required=True, hint=": whether it was ready at arc start")]
    at_arc_ppm: Annotated[float | None, _declare_unmeasured("Oxygen at arc start", 1e6)] = None
    most_ppm: Annotated[
        float | None, _declare_unmeasured("Maximum oxygen during the weld", 1e6)
    ] = None
    mixing: Annotated[float | None, _declare_unmeasured("Mixed fraction", 1e4)] = None
    settles_ppm: Annotated[float | None, _declare_unmeasured("Settled value", 1e6)] = None


def _declare_arc(label: str, quantity: str, high: float) -> Entry:
    return Entry("number", label=label, quantity=quantity, high=high)


class ArcSummary(Struct, frozen=True):
    """The figures of the arc, by an arc log or by a timer; None where it does not tell."""

    by: Annotated[str, Entry("name", names=list_options(("log", "timer")), required=True)]
    arc_s: Annotated[float | None, _declare_arc("Arc time", "seconds", 1e5)] = None
    pool_s: Annotated[float | None, _declare_arc("Slowest pool", "seconds", 1e4)] = None
    taper_s: Annotated[float | None, _declare_arc("Taper", "seconds", 1e4)] = None
    held_s: Annotated[float | None, _declare_arc("Shortest hold", "seconds", 1e4)] = None
    restarts: Annotated[float | None, _declare_arc("Restarts", "count", 1e4)] = None
    touched: Annotated[float | None, _declare_arc("Tungsten contacts", "count", 1e4)] = None
    tacks: Annotated[float | None, _declare_arc("Tacks", "count", 1e4)] = None
    beats: Annotated[float | None, _declare_arc("Pulse cycles", "count", 1e7)] = None
    mean_a: Annotated[float | None, _declare_arc("Mean current", "current", 2000)] = None
    background_a: Annotated[float | None, _declare_arc("Background", "current", 2000)] = None
    rate_pps: Annotated[float | None, _declare_arc("Pulse frequency", "rate", 1e4)] = None
    on_pct: Annotated[float | None, _declare_arc("Peak time", "percent", 100)] = None
    energy_kj: Annotated[float | None, _declare_arc("Energy", "energy", 1e6)] = None
    heat_input_kj_mm: Annotated[float | None, _declare_arc("Heat input", "heat", 100)] = None
    preflow_s: Annotated[float | None, _declare_arc("Pre-flow", "seconds", 1e4)] = None
    postflow_s: Annotated[float | None, _declare_arc("Post-flow", "seconds", 1e4)] = None

    @property
    def logged(self) -> bool:
        """Whether an arc log tells it."""
        return self.by == "log"


class StoredFile(Struct, frozen=True):
    """A file that belongs to a run, kept by what is in it: its name, and the SHA-256 it lies by."""

    file: Annotated[str, Entry("text", high=MAX_FILE_NAME, required=True)]
    sha256: Annotated[str, Entry("sha256", required=True)]


def _declare_count(null: bool = False) -> Entry:
    return Entry("number", low=-1e7, high=1e7, null=null, required=not null)


class Excursion(Struct, frozen=True):
    """A time outside an allowed range: of what, from when to when, s, how far at worst, and the
    range; a rate of nought is an arc that did not pulse.
    """

    what: Annotated[str, Entry("text", high=40, required=True), Figure("Quantity out of range")]
    start_s: Annotated[float, _declare_count(), Figure("From", "seconds", 3)]
    end_s: Annotated[float, _declare_count(), Figure("To", "seconds", 3)]
    worst: Annotated[float, _declare_count(), Figure("Worst value", "number", 2)]
    low: Annotated[float | None, _declare_count(null=True), Figure("Lower limit", "number", 2)] = (
        None
    )
    high: Annotated[float | None, _declare_count(null=True), Figure("Upper limit", "number", 2)] = (
        None
    )


class RustTest(Struct, frozen=True):
    """A test of a coupon for iron in its surface: which, how long, whether rust shows."""

    test: Annotated[str, Entry("name", names=list_options(RUST_TESTS), required=True)]
    minutes: Annotated[float, Entry("number", high=1e5, required=True)]
    shows: Annotated[bool, Entry("flag", required=True, hint=": whether rust showed")]


class Coupon(Struct, frozen=True):
    """The coupon that a run was: its label, where it gave way, its rust test."""

    label: Annotated[str, Entry("text", high=MAX_NAME)] = ""
    bend: Annotated[str | None, Entry("name", names=list_options(ENDS))] = None
    hammer: Annotated[str | None, Entry("name", names=list_options(ENDS))] = None
    rust: Annotated[RustTest | None, Entry("object", of=RustTest)] = None


class FrontFace(Struct, frozen=True):
    """What the front looks like."""

    colour: Annotated[str, Entry("name", names=list_options(FRONT_COLOURS), required=True)]


class BackFace(Struct, frozen=True):
    """What the back looks like, or that it was not seen."""

    colour: Annotated[str, Entry("name", names=list_options(BACK_COLOURS), required=True)]


def _list_flaw_names() -> Mapping[str, Option]:
    return {key: Option(words) for key, words in catalogue.load_flaws().items()}


def _read_initials(name: str, value: Any) -> str:
    found = checks.check_line(name, value, MAX_NAME)
    if not found.strip():
        raise InputError(name, "", NO_INITIALS)
    return found


def _build_initials_schema() -> dict[str, Json]:
    line: Json = f"^{checks.LINE}$"
    return {
        "type": "string",
        "maxLength": MAX_NAME,
        "pattern": line,
        "allOf": [{"pattern": r"\S"}],
    }


_JOINT = Own(checks.check_mapping, dict, lambda: {"type": "object"})
_INITIALS = Own(_read_initials, str, _build_initials_schema)


class Run(Struct, frozen=True):
    """A recorded run.

    Attributes:
        good: Whether the welder called it good, and it was made as planned.
        faults: The flaws that were seen; None where nobody looked.
        as_done: Whether it came out good and was not made as planned.
        joint: The joint it was made to, as the data of a joint file, where it carries one.
    """

    when: Annotated[str, Entry("date", required=True, label="Date")]
    who: Annotated[str, Entry("own", required=True, own=_INITIALS, missing=NO_INITIALS)]
    front: Annotated[FrontFace, Entry("object", of=FrontFace, required=True, label="Face")]
    back: Annotated[BackFace, Entry("object", of=BackFace, required=True, label="Root")]
    good: Annotated[bool, Entry("flag", required=True)]
    machine: Annotated[str, Entry("text", high=MAX_NAME, label="Machine")] = ""
    set: Annotated[Settings, Entry("object", of=Settings)] = Settings()
    used: Annotated[Used, Entry("object", of=Used)] = Used()
    measured: Annotated[Measured, Entry("object", of=Measured)] = Measured()
    faults: Annotated[
        tuple[str, ...] | None, Entry("names", names=_list_flaw_names, label="Flaws")
    ] = None
    photographs: Annotated[
        tuple[StoredFile, ...], Entry("objects", of=StoredFile, most=MAX_PHOTOGRAPHS)
    ] = ()
    notes: Annotated[str, Entry("lines", high=MAX_NOTES, label="Notes")] = ""
    as_done: Annotated[bool, Entry("flag")] = False
    purge: Annotated[Purge | None, Entry("object", of=Purge)] = None
    arc: Annotated[ArcSummary | None, Entry("object", of=ArcSummary)] = None
    arc_log: Annotated[StoredFile | None, Entry("object", of=StoredFile)] = None
    left_band: Annotated[
        tuple[Excursion, ...], Entry("objects", of=Excursion, most=MAX_EXCURSIONS)
    ] = ()
    look: Annotated[str | None, Entry("name", names=list_options(LOOKS))] = None
    coupon: Annotated[Coupon | None, Entry("object", of=Coupon)] = None
    seen: Annotated[Inspection | None, Entry("object", of=Inspection)] = None
    reading: Annotated[SavedReading | None, Entry("object", of=SavedReading)] = None
    joint: Annotated[JsonObject | None, Entry("own", own=_JOINT)] = None
    procedure: Annotated[str, Entry("text", high=20)] = ""
    revision: Annotated[str, Entry("text", high=4)] = ""

    @property
    def logged(self) -> bool:
        """Whether an arc log tells of its arc."""
        return self.arc is not None and self.arc.logged

    @property
    def travel_mm_s(self) -> float | None:
        """How fast it went, of the length welded and the arc time; None where one was not told."""
        length, time = self.measured.length_mm, self.measured.arc_time_s
        return length / time if length and time else None


HEAD = ("format", "version", "minor")


def read_run(data: Any) -> Run:
    """Make a run of the data of the run format, without its head. Raises InputError."""
    run = read_document(Run, data, what="a run")
    if run.good and run.as_done:
        raise InputError(
            "as_done", True, "belongs to a run that was not made as planned, so the run is not good"
        )
    return run


def write_run(run: Run) -> dict[str, Json]:
    """Write a run as the data of the run format, without its head."""
    return write_document(run)


class RunFigure(Struct, frozen=True):
    """A figure that is written down of a run: its part and key, its declaration, and the figure of
    the plan that says the same.
    """

    part: str
    key: str
    entry: Entry
    declared: Declared | None

    @property
    def label(self) -> str:
        """What it is called."""
        return self.entry.label

    @property
    def quantity(self) -> str:
        """Its kind of quantity, "word" for a name."""
        return self.entry.quantity

    @property
    def band(self) -> str:
        """The key of the allowed range that it is held within, its own where it has none."""
        own = self.declared.figure.band if self.declared else None
        return own.key if own else self.key

    def of(self, run: Run) -> Any:
        """What a run says of it, None where it does not tell."""
        return getattr(getattr(run, self.part), self.key)

    def planned(self, plan: Plan) -> Any:
        """What a plan says of it, None where it says nothing; "none" for a rod that is not fed."""
        value = self.declared.of(plan) if self.declared else None
        return value or NO_ROD if self.key == "rod" else value


PART_TYPES = {"set": Settings, "used": Used, "measured": Measured}


@cache
def run_figures() -> Mapping[str, Mapping[str, RunFigure]]:
    """Every figure that is written down of a run, by part and key."""
    planned = {f"{d.choice.part}.{d.key}": d for d in list_declared_figures()}
    return {
        part: {
            key: RunFigure(
                part, key, declared, planned[declared.planned] if declared.planned else None
            )
            for key, declared in read_entries(of).items()
        }
        for part, of in PART_TYPES.items()
    }


def list_run_figures() -> list[RunFigure]:
    """The same in one list, in the order of a run."""
    return [figure for part in run_figures().values() for figure in part.values()]


def with_figures(run: Run, values: Mapping[tuple[str, str], Any]) -> Run:
    """A run with figures of it, by part and key, in the place of its own."""
    parts = {
        part: replace(
            getattr(run, part), **{key: v for (of, key), v in values.items() if of == part}
        )
        for part in PART_TYPES
    }
    return replace(run, **parts)


def get_planned_values(plan: Plan) -> dict[str, tuple[Any, str]]:
    """What a plan says to set and to use, {part.key: (value, kind of quantity)}: no rate where
    nothing but a foot keeps it.
    """
    found = {}
    for figure in list_run_figures():
        value = figure.planned(plan)
        if value is not None and (figure.key != "rate_pps" or plan.pulse.pulsed):
            found[f"{figure.part}.{figure.key}"] = (value, figure.quantity)
    return found


def list_rod_names() -> list[str]:
    """The rods that a run can name, none among them."""
    return [NO_ROD, *catalogue.load_rods()]


def check_not_to_come(run: Run, latest: str) -> None:
    """Refuse a run of a day that is still to come. Parameters: latest, the day it is where the day
    begins first. Raises InputError.
    """
    if run.when > latest:
        raise InputError("when", run.when, "is in the future. Give the day of the weld")


def explain_coupon_failure(coupon: Coupon | None) -> str | None:
    """Why what a coupon showed cannot verify, in one sentence, or None. Common practice: in the
    sheet is good.
    """
    if coupon is None:
        return None
    for end, did in ((coupon.bend, "bent"), (coupon.hammer, "hammered")):
        if end is not None and end not in SOUND_ENDS:
            return (
                f"The coupon broke {ENDS[end]} when it was {did}, so it cannot verify a "
                "procedure. It should yield in the sheet"
            )
    if coupon.rust is not None and coupon.rust.shows:
        return (
            "A coupon that rusts has iron in its surface and cannot verify a procedure. "
            "Check brush, wheels and rod, and weld another"
        )
    return None


def explain_rust_test(rust: RustTest) -> str | None:
    """What a rust test says less than it seems to, in one sentence, or None. Common practice."""
    if rust.test == "kitchen" and not rust.shows and rust.minutes < MIN_KITCHEN_MIN:
        return (
            f"No rust after {rust.minutes:g} minutes proves little. Contaminated metal "
            f"may need {MIN_KITCHEN_MIN:g} to 10 minutes to show it."
        )
    return None


ARC_FIGURES: Mapping[str, Entry] = {
    key: declared for key, declared in read_entries(ArcSummary).items() if key != "by"
}
