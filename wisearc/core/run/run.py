"""A recorded run: settings, materials, measurements and observations as one document.

Each field is declared once, on its type. The run file and its schema, the run form, the comparison
with the plan and the allowed ranges use the declarations.
"""

from collections.abc import Mapping
from functools import cache
from typing import Annotated, Any

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..errors import InputError
from ..photograph.measurement import Measurement
from ..plan.plan import Declared, Plan, list_declared_figures
from ..schema import checks
from ..schema.documents import read_document, write_document
from ..schema.entries import Entry, Option, Own, list_options, read_entries
from ..schema.figures import Figure
from ..schema.json_types import Json, JsonObject
from .inspection import BACK_COLOURS, BEAD_SURFACES, FACE_NAMES, FRONT_COLOURS, SIDES, Inspection
from .recorded_repair import MAX_REPAIRS, RecordedRepair
from .saved_reading import SavedReading

NO_ROD = "none"
NO_INITIALS = "Enter your initials, so that other welders can ask you"
# The text for a missing field of a form.
WANTED = {
    "who": f"{NO_INITIALS}.",
    **{face: f"Select the tint of the {FACE_NAMES[face]}." for face in SIDES},
}
MAX_NAME, MAX_ROD_NAME, MAX_NOTES, MAX_FILE_NAME = 60, 40, 4000, 200
# The maximum number of runs of a revision, an estimate: years of daily runs, and one export file.
MAX_RUNS, MAX_RUNS_BYTES = 2000, 2_000_000
MAX_PHOTOGRAPHS, MAX_EXCURSIONS = 100, 500
# Where a coupon broke, by bending or hammering. A break in the sheet is good.
ENDS = {
    "sheet": "in the sheet",
    "toe": "at the toe",
    "weld": "in the weld",
    "held": "did not break",
}
VALID_BEND_ENDS = ("sheet", "held")
RUST_TESTS = {
    "kitchen": "peroxide, vinegar and salt",
    "copper-sulphate": "copper sulphate",
    "ferroxyl": "ferroxyl",
    "wet-dry": "wet and dry",
}
# A mix of peroxide, vinegar and salt shows rust on bad metal in 2 to 10 minutes, and nothing after
# 8 on good metal: common practice.
MIN_KITCHEN_MIN = 8.0


def _declare_figure(label: str, quantity: str, low: float, high: float, planned: str = "") -> Entry:
    return Entry("number", label=label, quantity=quantity, low=low, high=high, planned=planned)


class Settings(Struct, frozen=True):
    """The machine settings.

    None: unknown.
    """

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
    """The materials and the actual gap.

    None: unknown.
    """

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
    """The measurements.

    None: unknown.
    """

    peak_a: Annotated[float | None, _declare_figure("Measured peak", "current", 1, 500)] = None
    read_off_a: Annotated[
        float | None, _declare_figure("Current read off while welding", "current", 1, 500)
    ] = None
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
    """The purge of a run.

    None: not measured.
    """

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
    """The figures of the arc, from an arc log or a timer.

    None: unknown.
    """

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
        """Return whether an arc log gives them."""
        return self.by == "log"


class StoredFile(Struct, frozen=True):
    """A file of a run, saved by its contents: its name and its SHA-256."""

    file: Annotated[str, Entry("text", high=MAX_FILE_NAME, required=True)]
    sha256: Annotated[str, Entry("sha256", required=True)]


class Photograph(Struct, frozen=True):
    """A photograph of a run, saved by its contents, and its measurements.

    Attributes:
        face: The face in it, "front" or "back", or None.
        measured: Its measurements, or None.
        straightened: SHA-256 of the straightened picture with its scale, or "".
    """

    file: Annotated[str, Entry("text", high=MAX_FILE_NAME, required=True)]
    sha256: Annotated[str, Entry("sha256", required=True)]
    face: Annotated[str | None, Entry("name", names=list_options(FACE_NAMES))] = None
    measured: Annotated[Measurement | None, Entry("object", of=Measurement)] = None
    straightened: Annotated[str | None, Entry("sha256")] = None

    def list_sha256(self) -> list[str]:
        """Return the SHA-256 of each of its files."""
        return [self.sha256, *([self.straightened] if self.straightened else [])]


def _declare_count(null: bool = False) -> Entry:
    return Entry("number", low=-1e7, high=1e7, null=null, required=not null)


class Excursion(Struct, frozen=True):
    """A time outside an allowed range: figure, start and end s, extreme value, and the range.

    A frequency of zero is an arc without pulses.
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
    """A test of a coupon for surface iron: method, duration, and result."""

    test: Annotated[str, Entry("name", names=list_options(RUST_TESTS), required=True)]
    minutes: Annotated[float, Entry("number", high=1e5, required=True)]
    shows: Annotated[bool, Entry("flag", required=True, hint=": whether rust showed")]


class Coupon(Struct, frozen=True):
    """A coupon: label, position of the break, rust test."""

    label: Annotated[str, Entry("text", high=MAX_NAME)] = ""
    bend: Annotated[str | None, Entry("name", names=list_options(ENDS))] = None
    hammer: Annotated[str | None, Entry("name", names=list_options(ENDS))] = None
    rust: Annotated[RustTest | None, Entry("object", of=RustTest)] = None


class FrontFace(Struct, frozen=True):
    """The appearance of the front."""

    colour: Annotated[str, Entry("name", names=list_options(FRONT_COLOURS), required=True)]


class BackFace(Struct, frozen=True):
    """The appearance of the back, or that it was not inspected."""

    colour: Annotated[str, Entry("name", names=list_options(BACK_COLOURS), required=True)]


def _list_flaw_names() -> Mapping[str, Option]:
    return {key: Option(text) for key, text in catalogue.load_flaws().items()}


def _read_initials(name: str, value: Any) -> str:
    initials = checks.check_line(name, value, MAX_NAME)
    if not initials.strip():
        raise InputError(name, "", NO_INITIALS)
    return initials


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
        good: Whether the welder judged it good, and it was welded as planned.
        faults: The observed flaws. None: not inspected.
        as_done: Whether it is good and was not welded as planned.
        joint: The data of its joint, as in a joint file, if included.
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
        tuple[Photograph, ...], Entry("objects", of=Photograph, most=MAX_PHOTOGRAPHS)
    ] = ()
    notes: Annotated[str, Entry("lines", high=MAX_NOTES, label="Notes")] = ""
    as_done: Annotated[bool, Entry("flag")] = False
    purge: Annotated[Purge | None, Entry("object", of=Purge)] = None
    arc: Annotated[ArcSummary | None, Entry("object", of=ArcSummary)] = None
    arc_log: Annotated[StoredFile | None, Entry("object", of=StoredFile)] = None
    left_band: Annotated[
        tuple[Excursion, ...], Entry("objects", of=Excursion, most=MAX_EXCURSIONS)
    ] = ()
    look: Annotated[str | None, Entry("name", names=list_options(BEAD_SURFACES))] = None
    coupon: Annotated[Coupon | None, Entry("object", of=Coupon)] = None
    seen: Annotated[Inspection | None, Entry("object", of=Inspection)] = None
    reading: Annotated[SavedReading | None, Entry("object", of=SavedReading)] = None
    repairs: Annotated[
        tuple[RecordedRepair, ...], Entry("objects", of=RecordedRepair, most=MAX_REPAIRS)
    ] = ()
    joint: Annotated[JsonObject | None, Entry("own", own=_JOINT)] = None
    procedure: Annotated[str, Entry("text", high=20)] = ""
    revision: Annotated[str, Entry("text", high=4)] = ""

    @property
    def logged(self) -> bool:
        """Return whether an arc log gives its arc figures."""
        return self.arc is not None and self.arc.logged

    @property
    def travel_mm_s(self) -> float | None:
        """Return the travel speed from welded length and arc time, mm/s, or None."""
        length, time = self.measured.length_mm, self.measured.arc_time_s
        return length / time if length and time else None


HEAD = ("format", "version", "minor")


def read_run(data: Any) -> Run:
    """Build a run from the data of the run format, without its head.

    Raises:
        InputError: A value is wrong.
    """
    run = read_document(Run, data, document="a run")
    if run.good and run.as_done:
        raise InputError(
            "as_done", True, "belongs to a run that was not made as planned, so the run is not good"
        )
    return run


def write_run(run: Run) -> dict[str, Json]:
    """Return a run as the data of the run format, without its head."""
    return write_document(run)


class RunFigure(Struct, frozen=True):
    """A recorded figure of a run: part, key, declaration, and the figure of the plan."""

    part: str
    key: str
    entry: Entry
    declared: Declared | None

    @property
    def label(self) -> str:
        """Return its label."""
        return self.entry.label

    @property
    def quantity(self) -> str:
        """Return its kind of quantity, "word" for a name."""
        return self.entry.quantity

    @property
    def band(self) -> str:
        """Return the key of its allowed range, its own key without one."""
        declared_band = self.declared.figure.band if self.declared else None
        return declared_band.key if declared_band else self.key

    def of(self, run: Run) -> Any:
        """Return its value in a run, or None."""
        return getattr(getattr(run, self.part), self.key)

    def planned(self, plan: Plan) -> Any:
        """Return its value in a plan, or None.

        A plan without rod has "none".
        """
        value = self.declared.of(plan) if self.declared else None
        return value or NO_ROD if self.key == "rod" else value


PART_TYPES = {"set": Settings, "used": Used, "measured": Measured}


@cache
def run_figures() -> Mapping[str, Mapping[str, RunFigure]]:
    """Return every recorded figure by part and key."""
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
    """Return the recorded figures as one list, in the order of a run."""
    return [figure for part in run_figures().values() for figure in part.values()]


def with_figures(run: Run, values: Mapping[tuple[str, str], Any]) -> Run:
    """Return a run with other figures, by part and key.

    Args:
        run: The run.
        values: The figures.
    """
    parts = {
        part: replace(
            getattr(run, part), **{key: v for (of, key), v in values.items() if of == part}
        )
        for part in PART_TYPES
    }
    return replace(run, **parts)


def get_planned_values(plan: Plan) -> dict[str, tuple[Any, str]]:
    """Return the settings and materials of a plan, {part.key: (value, kind of quantity)}.

    Without an automatic pulse there is no frequency.
    """
    values = {}
    for figure in list_run_figures():
        value = figure.planned(plan)
        if value is not None and (figure.key != "rate_pps" or plan.pulse.pulsed):
            values[f"{figure.part}.{figure.key}"] = (value, figure.quantity)
    return values


def list_rod_names() -> list[str]:
    """Return the rods that a run can name, with none."""
    return [NO_ROD, *catalogue.load_rods()]


def check_not_in_future(run: Run, latest: str) -> None:
    """Check that the date of a run is not in the future.

    Args:
        run: The run.
        latest: The present date in the first time zone of the day.

    Raises:
        InputError: The date is in the future.
    """
    if run.when > latest:
        raise InputError("when", run.when, "is in the future. Give the day of the weld")


def explain_coupon_failure(coupon: Coupon | None) -> str | None:
    """Return the reason that a coupon cannot verify, in one sentence, or None.

    Common practice: a break in the sheet is good.
    """
    if coupon is None:
        return None
    for end, did in ((coupon.bend, "bent"), (coupon.hammer, "hammered")):
        if end is not None and end not in VALID_BEND_ENDS:
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
    """Return the limit of a rust test, in one sentence, or None.

    Common practice.
    """
    if rust.test == "kitchen" and not rust.shows and rust.minutes < MIN_KITCHEN_MIN:
        return (
            f"No rust after {rust.minutes:g} minutes proves little. Contaminated metal "
            f"may need {MIN_KITCHEN_MIN:g} to 10 minutes to show it."
        )
    return None


ARC_FIGURES: Mapping[str, Entry] = {
    key: declared for key, declared in read_entries(ArcSummary).items() if key != "by"
}
