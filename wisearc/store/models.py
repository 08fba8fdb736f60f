"""The tables. Constraints stand in the migrations; JSON columns hold the open formats as they were
written.
"""

from __future__ import annotations

import json
from typing import Any

import peewee

from ..core.errors import InputError
from ..core.run.run import Run
from ..formats.run_json import read_record
from ..formats.upgrades.steps import NewerFormat
from .database import db
from .errors import NewerVersion, Unreadable

NUMBER_FORM = "P-{:04d}"


class JsonField(peewee.TextField):
    """A column of JSON text."""

    def db_value(self, value: Any) -> str | None:
        return (
            None
            if value is None
            else json.dumps(value, ensure_ascii=False, allow_nan=False, sort_keys=True)
        )

    def python_value(self, value: str | None) -> Any:
        return None if value is None else json.loads(value)


class Base(peewee.Model):
    """All tables stand in one database."""

    class Meta:
        database = db
        legacy_table_names = False


class Procedure(Base):
    """A numbered procedure; what it says stands in its revisions."""

    id = peewee.AutoField()
    number = peewee.IntegerField(unique=True)
    once = peewee.TextField(null=True, unique=True)
    created_at = peewee.TextField()

    @property
    def label(self) -> str:
        return NUMBER_FORM.format(self.number)


class Revision(Base):
    """One revision: a joint, its plan as it was kept, and the bands within which it holds."""

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
    corrections = JsonField(default=list)

    class Meta:
        table_name = "run"

    @property
    def document(self) -> Run:
        """The run as it was recorded.

        Raises:
            NewerVersion: A newer version of Wise Arc wrote the record.
            Unreadable: The record is damaged.
        """
        try:
            return read_record(self.record)
        except NewerFormat as error:
            raise NewerVersion(f"Run {self.id} {error.rule}. Wise Arc does not show it.") from error
        except InputError as error:
            words = "Its record was changed or damaged outside Wise Arc. Restore a backup."
            raise Unreadable(f"Run {self.id} cannot be shown: {error}. {words}") from error

    @property
    def minor(self) -> int:
        """The minor of the run format that it was recorded in."""
        return int(self.record.get("minor", 0))


class Listing(Base):
    """A revision as the book lists it: made of it, and made again whenever it changes."""

    revision = peewee.ForeignKeyField(Revision, primary_key=True)
    number = peewee.IntegerField()
    letter = peewee.TextField()
    status = peewee.TextField()
    title = peewee.TextField()
    current_a = peewee.FloatField(null=True)
    rod = peewee.TextField(null=True)
    runs = peewee.IntegerField()
    good = peewee.IntegerField()
    made_as = peewee.IntegerField()

    @property
    def number_of_revision(self) -> int:
        """The id of its revision, without asking for it."""
        return int(self.__data__["revision"])

    @property
    def label(self) -> str:
        return NUMBER_FORM.format(self.number)


class Learnt(Base):
    """What a run tells for joints like its own: made of it, and made again whenever it changes."""

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


class Drilled(Base):
    """A try of a drill: which, by whom, what was measured, whether it met its target; when, and
    when it was taken back.
    """

    id = peewee.AutoField()
    drill = peewee.TextField()
    hand = peewee.TextField()
    value = peewee.FloatField()
    met = peewee.IntegerField()
    note = peewee.TextField(default="")
    once = peewee.TextField(null=True, unique=True)
    at = peewee.TextField()
    removed_at = peewee.TextField(null=True)

    class Meta:
        table_name = "drilled"


class ShopSchool(Base):
    """The school a shop has chosen for its new joints, by question."""

    key = peewee.TextField(primary_key=True)
    value = peewee.TextField()

    class Meta:
        table_name = "school"


class Owned(Base):
    """An item of a list of the shop: what makes it the same as another, its data (`item`), how many
    there are.
    """

    id = peewee.AutoField()
    list = peewee.TextField()
    identity = peewee.TextField()
    item = JsonField()
    count = peewee.IntegerField(default=1)
    removed_at = peewee.TextField(null=True)


class Shop(Base):
    """What stands once of the shop; `changes` counts every change of it or of what is owned."""

    one = peewee.IntegerField(primary_key=True)
    name = peewee.TextField(default="")
    machine = peewee.TextField(default="")
    torch = peewee.TextField(default="")
    entered = JsonField(default=list)
    has = JsonField(null=True)
    changes = peewee.IntegerField(default=0)


class SetUp(Base):
    """A set-up: of what, under which title, on which machine, by whom; what each line told in
    either habit; which are ticked.
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
        table_name = "setup"


class Person(Base):
    """Someone: initials, name, role."""

    id = peewee.AutoField()
    initials = peewee.TextField()
    name = peewee.TextField(default="")
    role = peewee.TextField()
    removed_at = peewee.TextField(null=True)


class PurgeRun(Base):
    """A purge under way or done: of what, as it was asked for, the meter's port; when the gas was
    opened, the arc struck, the arc over, the gas shut, seconds since 1970; what it came to, and the
    run it was written down with.
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
        table_name = "purge"


class Ticked(Base):
    """Which lines of a list are ticked, of what."""

    what = peewee.TextField()
    list = peewee.TextField()
    ticks = JsonField(default=list)

    class Meta:
        table_name = "ticked"
        primary_key = peewee.CompositeKey("what", "list")


class JobRow(Base):
    """A job: its data as a job file has it, how often it was changed."""

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
        table_name = "job"


class JobChange(Base):
    """A change of a job: what it was of, in words, by whom; itself, and the job's data before it;
    which other it went against, made on the page as it stood before; whether that was settled.
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
        table_name = "job_change"


class JobTick(Base):
    """A run of a job that is done: which seam of which piece, by whom, and the run it was written
    down as.
    """

    job = peewee.ForeignKeyField(JobRow, column_name="job")
    seam = peewee.TextField()
    piece = peewee.IntegerField()
    who = peewee.TextField(default="")
    at = peewee.TextField()
    run = peewee.ForeignKeyField(RunRow, null=True, column_name="run")

    class Meta:
        table_name = "job_tick"
        primary_key = peewee.CompositeKey("job", "seam", "piece")


class AtArc(Base):
    """A run at the arc: of what, for which run of a job, by whom; the number its device began it
    by; the power source's port; when it began and ended, s since 1970; how far each device's clock
    is behind, s; when it was left; the log that goes with it; the run it was written down as.
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
        table_name = "at_arc"


class ActRow(Base):
    """A key pressed in a run at the arc: its own number, the device, when by that device's clock, s
    since 1970, at which step, which key.
    """

    id = peewee.TextField(primary_key=True)
    at_arc = peewee.ForeignKeyField(AtArc, column_name="at_arc")
    device = peewee.TextField()
    at = peewee.FloatField()
    step = peewee.TextField()
    key = peewee.TextField()

    class Meta:
        table_name = "act"
