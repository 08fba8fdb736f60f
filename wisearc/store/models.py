"""The tables.

The migrations have the constraints. JSON columns contain the open formats as written.
"""

from __future__ import annotations

import json
from typing import Any

import peewee

from ..core.errors import InputError
from ..core.plan.plan import Plan
from ..core.run.run import Run
from ..core.schema.json_types import JsonObject
from ..formats.plan_json import read_plan
from ..formats.run_json import read_record
from ..formats.upgrades.steps import NewerFormat
from .database import db
from .errors import NewerVersion, Unreadable

NUMBER_FORM = "P-{:04d}"


class JsonField(peewee.TextField):
    """A column of JSON text."""

    def db_value(self, value: Any) -> str | None:
        """Return a value as JSON text."""
        return (
            None
            if value is None
            else json.dumps(value, ensure_ascii=False, allow_nan=False, sort_keys=True)
        )

    def python_value(self, value: str | None) -> Any:
        """Return JSON text as a value."""
        return None if value is None else json.loads(value)


class Base(peewee.Model):
    """The base of all tables, with the database."""

    class Meta:
        """Settings of the table."""

        database = db
        legacy_table_names = False


class Procedure(Base):
    """A numbered procedure.

    Its contents are in its revisions.
    """

    id = peewee.AutoField()
    number = peewee.IntegerField(unique=True)
    once = peewee.TextField(null=True, unique=True)
    created_at = peewee.TextField()

    @property
    def label(self) -> str:
        """Return its label."""
        return NUMBER_FORM.format(self.number)


class Revision(Base):
    """One revision: a joint, its saved plan, and the allowed ranges."""

    id = peewee.AutoField()
    procedure = peewee.ForeignKeyField(Procedure, backref="revisions")
    letter = peewee.TextField()
    status = peewee.TextField()
    title = peewee.TextField()
    joint = JsonField()
    plan = JsonField()
    bands = JsonField()
    edit = peewee.IntegerField(default=1)
    once = peewee.TextField(null=True, unique=True)
    changed_at = peewee.TextField()
    proved_at = peewee.TextField(null=True)
    signatures = JsonField(default=list)
    taken_as = peewee.TextField(null=True)
    removed_at = peewee.TextField(null=True)
    # The run that verified it. A plain number: the tables refer to each other.
    verifying_run = peewee.IntegerField(null=True)
    received_from = peewee.TextField(null=True)

    def read_plan(self) -> Plan:
        """Return the saved plan, parsed once.

        Raises:
            InputError: It is damaged or newer than this version.
        """
        read: tuple[JsonObject, Plan] | None = self.__dict__.get("_read")
        if read is None or read[0] is not self.plan:
            read = self._read = (self.plan, read_plan(self.plan))
        return read[1]


class RunRow(Base):
    """One run of a revision, as a record of the run format."""

    id = peewee.AutoField()
    revision = peewee.ForeignKeyField(Revision, backref="runs")
    made_on = peewee.TextField()
    record = JsonField()
    good = peewee.BooleanField()
    once = peewee.TextField(null=True, unique=True)
    kept_at = peewee.TextField()
    voided_at = peewee.TextField(null=True)
    voided_by = peewee.TextField(null=True)
    left_out = peewee.TextField(null=True)
    read_off = peewee.TextField(null=True)
    corrections = JsonField(default=list)

    class Meta:
        """Settings of the table."""

        table_name = "run"

    @property
    def document(self) -> Run:
        """Return the recorded run.

        Raises:
            NewerVersion: A newer version of Wise Arc wrote the record.
            Unreadable: The record is damaged.
        """
        read: tuple[JsonObject, Run] | None = self.__dict__.get("_read")
        if read is not None and read[0] is self.record:
            return read[1]
        try:
            document = read_record(self.record)
        except NewerFormat as error:
            raise NewerVersion(f"Run {self.id} {error.rule}. Wise Arc does not show it.") from error
        except InputError as error:
            text = "Its record was changed or damaged outside Wise Arc. Restore a backup."
            raise Unreadable(f"Run {self.id} cannot be shown: {error}. {text}") from error
        # A record is replaced and never changed in place.
        self._read = (self.record, document)
        return document

    @property
    def minor(self) -> int:
        """Return the minor version of its run format."""
        return int(self.record.get("minor", 0))


class InboxItem(Base):
    """A file in the inbox.

    Kind, name, SHA-256, time with its origin, machine, arc time s, its run, and times of addition
    and removal.
    """

    id = peewee.AutoField()
    kind = peewee.TextField()
    name = peewee.TextField()
    sha256 = peewee.TextField()
    taken_at = peewee.TextField()
    known_by = peewee.TextField()
    machine = peewee.TextField(default="")
    arc_s = peewee.FloatField(null=True)
    added_at = peewee.TextField()
    run = peewee.ForeignKeyField(RunRow, null=True)
    dropped_at = peewee.TextField(null=True)

    class Meta:
        """Settings of the table."""

        table_name = "inbox"


class RecordAct(Base):
    """An act on the record of a procedure: kind, revision, run, text, the data before it, times."""

    id = peewee.AutoField()
    procedure = peewee.ForeignKeyField(Procedure)
    kind = peewee.TextField()
    letter = peewee.TextField()
    run = peewee.ForeignKeyField(RunRow, null=True)
    text = peewee.TextField()
    before = JsonField(null=True)
    at = peewee.TextField()
    undone_at = peewee.TextField(null=True)

    class Meta:
        """Settings of the table."""

        table_name = "record_act"


class Listing(Base):
    """A revision in the list of the library, rebuilt after a change."""

    revision = peewee.ForeignKeyField(Revision, primary_key=True)
    number = peewee.IntegerField()
    letter = peewee.TextField()
    status = peewee.TextField()
    title = peewee.TextField()
    current_a = peewee.FloatField(null=True)
    rod = peewee.TextField(null=True)
    joint = peewee.TextField(default="")
    metals = peewee.TextField(default="")
    service = peewee.TextField(default="")
    thin_mm = peewee.FloatField(null=True)
    thick_mm = peewee.FloatField(null=True)
    diameter_mm = peewee.FloatField(null=True)
    runs = peewee.IntegerField()
    good = peewee.IntegerField()
    used_at = peewee.TextField()
    made_as = peewee.IntegerField()

    @property
    def number_of_revision(self) -> int:
        """Return the id of its revision, without a query."""
        return int(self.__data__["revision"])

    @property
    def label(self) -> str:
        """Return its label."""
        return NUMBER_FORM.format(self.number)


class ListingWord(Base):
    """A word of a revision for a filter: its kind ("metal", "machine", "welder") and value."""

    kind = peewee.TextField()
    value = peewee.TextField()
    revision = peewee.IntegerField(column_name="revision_id")

    class Meta:
        """Settings of the table."""

        table_name = "listing_word"
        primary_key = peewee.CompositeKey("kind", "value", "revision")


class SavedView(Base):
    """A named view of the library: its query in the address."""

    id = peewee.AutoField()
    name = peewee.TextField(unique=True)
    query = peewee.TextField()
    saved_at = peewee.TextField()

    class Meta:
        """Settings of the table."""

        table_name = "saved_view"


class Learnt(Base):
    """The history row of a run, rebuilt after a change."""

    run = peewee.IntegerField(primary_key=True)
    revision = peewee.IntegerField()
    procedure = peewee.IntegerField()
    made_on = peewee.TextField()
    machine = peewee.TextField()
    hand = peewee.TextField()
    family = peewee.TextField()
    metals = peewee.TextField()
    good = peewee.IntegerField()
    weight = peewee.FloatField()
    ratio = peewee.FloatField(null=True)
    pace = peewee.FloatField(null=True)
    held = peewee.FloatField(null=True)
    faults = JsonField()
    cause = peewee.TextField()
    change = peewee.TextField()
    left_out = peewee.IntegerField()
    unknown = peewee.IntegerField()


class Drilled(Base):
    """An attempt of a drill: drill, person, value, result, and times of record and removal.

    `learner` is its owner, None for one from before owners.
    """

    id = peewee.AutoField()
    drill = peewee.TextField()
    hand = peewee.TextField()
    learner = peewee.TextField(null=True)
    value = peewee.FloatField()
    met = peewee.IntegerField()
    note = peewee.TextField(default="")
    once = peewee.TextField(null=True, unique=True)
    at = peewee.TextField()
    removed_at = peewee.TextField(null=True)

    class Meta:
        """Settings of the table."""

        table_name = "drilled"


class PracticeTry(Base):
    """A try of practice: owner, lesson or "", kind, title, score, result, and track or None."""

    id = peewee.AutoField()
    learner = peewee.TextField()
    lesson = peewee.TextField()
    kind = peewee.TextField()
    title = peewee.TextField()
    score = peewee.FloatField()
    result = JsonField()
    track = peewee.BlobField(null=True)
    once = peewee.TextField(null=True, unique=True)
    at = peewee.TextField()
    removed_at = peewee.TextField(null=True)

    class Meta:
        """Settings of the table."""

        table_name = "practice_try"


class ShopSchool(Base):
    """The approach of the shop for new joints, by question."""

    key = peewee.TextField(primary_key=True)
    value = peewee.TextField()

    class Meta:
        """Settings of the table."""

        table_name = "school"


class Owned(Base):
    """An item of a list of the shop: identity, data (`item`), count."""

    id = peewee.AutoField()
    list = peewee.TextField()
    identity = peewee.TextField()
    item = JsonField()
    count = peewee.IntegerField(default=1)
    removed_at = peewee.TextField(null=True)


class Shop(Base):
    """The single row of the shop.

    `changes` counts every change of it or of its items.
    """

    one = peewee.IntegerField(primary_key=True)
    name = peewee.TextField(default="")
    machine = peewee.TextField(default="")
    torch = peewee.TextField(default="")
    entered = JsonField(default=list)
    has = JsonField(null=True)
    changes = peewee.IntegerField(default=0)
    required_roles = JsonField(default=list)


class ShopKeyRow(Base):
    """The public key of this shop or of another one, and when it was added and replaced."""

    key_id = peewee.TextField(primary_key=True)
    public = peewee.TextField()
    shop = peewee.TextField(default="")
    own = peewee.BooleanField()
    added_at = peewee.TextField()
    replaced_at = peewee.TextField(null=True)

    class Meta:
        """Settings of the table."""

        table_name = "shop_key"


class SetUp(Base):
    """A set-up.

    Subject, title, machine, person, values of each line in both unit systems, ticked lines.
    """

    id = peewee.AutoField()
    what = peewee.TextField()
    title = peewee.TextField()
    machine = peewee.TextField(default="")
    who = peewee.TextField(default="")
    dial = JsonField()
    ticks = JsonField(default=list)
    begun_at = peewee.TextField()
    set_at = peewee.TextField(null=True)
    left_open = JsonField(default=list)

    class Meta:
        """Settings of the table."""

        table_name = "setup"


class Person(Base):
    """A person: initials, name, role."""

    id = peewee.AutoField()
    initials = peewee.TextField()
    name = peewee.TextField(default="")
    role = peewee.TextField()
    removed_at = peewee.TextField(null=True)


class PurgeRun(Base):
    """A purge.

    Subject, request, port of the meter; times at which the gas was opened, the arc started and
    stopped, and the gas was closed, s since 1970; summary; and its recorded run.
    """

    id = peewee.AutoField()
    what = peewee.TextField()
    title = peewee.TextField()
    ask = JsonField()
    port = peewee.IntegerField(null=True)
    began = peewee.FloatField()
    started = peewee.FloatField(null=True)
    arc_off = peewee.FloatField(null=True)
    ended = peewee.FloatField(null=True)
    record = JsonField(null=True)
    run = peewee.ForeignKeyField(RunRow, null=True, column_name="run")

    class Meta:
        """Settings of the table."""

        table_name = "purge"


class Ticked(Base):
    """The ticked lines of a list of a subject."""

    what = peewee.TextField()
    list = peewee.TextField()
    ticks = JsonField(default=list)

    class Meta:
        """Settings of the table."""

        table_name = "ticked"
        primary_key = peewee.CompositeKey("what", "list")


class JobRow(Base):
    """A job: its data as in a job file, and its edit number."""

    id = peewee.AutoField()
    title = peewee.TextField()
    data = JsonField()
    edit = peewee.IntegerField(default=1)
    once = peewee.TextField(null=True, unique=True)
    created_at = peewee.TextField()
    changed_at = peewee.TextField()
    done_at = peewee.TextField(null=True)
    removed_at = peewee.TextField(null=True)

    class Meta:
        """Settings of the table."""

        table_name = "job"


class JobChange(Base):
    """A change of a job.

    Subjects, text, person, data, the job data before it, the change in conflict on an older page,
    and whether that is settled.
    """

    id = peewee.AutoField()
    job = peewee.ForeignKeyField(JobRow, column_name="job")
    edit = peewee.IntegerField()
    subject = peewee.TextField()
    words = peewee.TextField()
    who = peewee.TextField(default="")
    change = JsonField()
    before = JsonField(null=True)
    against = peewee.IntegerField(null=True)
    at = peewee.TextField()
    settled = peewee.BooleanField(default=False)

    class Meta:
        """Settings of the table."""

        table_name = "job_change"


class JobTick(Base):
    """A finished run of a job: seam, piece, person, recorded run."""

    job = peewee.ForeignKeyField(JobRow, column_name="job")
    seam = peewee.TextField()
    piece = peewee.IntegerField()
    who = peewee.TextField(default="")
    at = peewee.TextField()
    run = peewee.ForeignKeyField(RunRow, null=True, column_name="run")

    class Meta:
        """Settings of the table."""

        table_name = "job_tick"
        primary_key = peewee.CompositeKey("job", "seam", "piece")


class AtArc(Base):
    """A weld session.

    Subject, run of a job, person, number on its device, port of the power source, start and end s
    since 1970, clock error of each device s, time at which it was left, log, and recorded run.
    """

    id = peewee.AutoField()
    what = peewee.TextField()
    title = peewee.TextField()
    job = peewee.TextField(default="")
    once = peewee.TextField(unique=True)
    who = peewee.TextField(default="")
    port = peewee.IntegerField(null=True)
    began = peewee.FloatField()
    clocks = JsonField(default=dict)
    ended = peewee.FloatField(null=True)
    left_at = peewee.FloatField(null=True)
    log = JsonField(null=True)
    run = peewee.ForeignKeyField(RunRow, null=True, column_name="run")

    class Meta:
        """Settings of the table."""

        table_name = "at_arc"


class ActRow(Base):
    """A pressed key in a weld session: number, device, time by its clock, s, step, key."""

    id = peewee.TextField(primary_key=True)
    at_arc = peewee.ForeignKeyField(AtArc, column_name="at_arc")
    device = peewee.TextField()
    at = peewee.FloatField()
    step = peewee.TextField()
    key = peewee.TextField()

    class Meta:
        """Settings of the table."""

        table_name = "act"
