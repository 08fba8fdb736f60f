"""Messages of a device with the events of a weld session."""

import re
from typing import Annotated, Any

from msgspec import Struct

from ...core.errors import InputError
from ...core.jobs.job import MAX_RUN_NAME_LENGTH, read_run_name
from ...core.run.run import MAX_NAME
from ...core.schema.documents import read_document
from ...core.schema.entries import Entry, Own
from ...core.weld_session.course import (
    MAX_ACTS,
)

MAX_PORT_LENGTH = 20
_ID = r"[A-Za-z0-9-]{8,60}"


def _read_own_number(name: str, value: Any) -> str:
    if not isinstance(value, str) or not re.fullmatch(_ID, value):
        raise InputError(name, value, "must be 8 to 60 letters, digits and hyphens")
    return value


_OWN_NUMBER = Own(_read_own_number, str, lambda: {"type": "string", "pattern": _ID})


def _declare_moment() -> Entry:
    return Entry("number", low=0, high=1e11, required=True)


class SentAct(Struct, frozen=True):
    """An event as a device sends it.

    Its number on the device, its time by that clock, its step, and its key.
    """

    id: Annotated[str, Entry("own", own=_OWN_NUMBER, required=True)]
    at: Annotated[float, _declare_moment()]
    step: Annotated[str, Entry("text", high=40, required=True)]
    key: Annotated[str, Entry("text", high=20, required=True)]


class Sent(Struct, frozen=True, kw_only=True):
    """A message of a device.

    Subject, run of a job, number of the session on the device, person, device; start of the session
    and present time by that clock, s since 1970; port of the power source that leads a new session,
    or ""; events.
    """

    what: Annotated[str, Entry("text", high=4000, required=True)]
    job: Annotated[str, Entry("text", high=MAX_RUN_NAME_LENGTH)] = ""
    once: Annotated[str, Entry("own", own=_OWN_NUMBER, required=True)]
    who: Annotated[str, Entry("text", high=MAX_NAME)] = ""
    device: Annotated[str, Entry("own", own=_OWN_NUMBER, required=True)]
    began: Annotated[float, _declare_moment()]
    now: Annotated[float, _declare_moment()]
    port: Annotated[str, Entry("text", high=MAX_PORT_LENGTH)] = ""
    acts: Annotated[tuple[SentAct, ...], Entry("objects", of=SentAct, most=MAX_ACTS, required=True)]

    def check(self, where: str) -> None:
        """Check the name of a run of a job.

        Raises:
            InputError: The name is not valid.
        """
        if self.job:
            read_run_name(self.job)


def read_sent(data: Any) -> Sent:
    """Parse a message of a device.

    Raises:
        InputError: The message is wrong.
    """
    return read_document(Sent, data, document="a run that a device sends")
