"""The states of a revision: draft, waiting for signatures, verified, superseded."""

from __future__ import annotations

from collections.abc import Callable

from ...core.run.signature import BEFORE_RUN, SIGNING_ROLES
from ...store import listings, queries, shelf
from ...store.models import Revision, RunRow
from .judged_signatures import WITH_RUN, SignedState, judge_signatures
from .library_search import list_record

DRAFT, WAITING, PROVED, SUPERSEDED = "draft", "waiting", "proved", "superseded"
# Names on screen. The keys are fixed by the file format.
STATUS_NAMES = {
    DRAFT: "draft",
    WAITING: "waiting for signatures",
    PROVED: "verified",
    SUPERSEDED: "superseded",
    listings.REMOVED: "archived",
}
# The states of a revision that no good run and no signatures have verified yet.
UNVERIFIED = (DRAFT, WAITING)


def load_required_roles() -> list[str]:
    """Return the roles that must sign before a good run verifies, in the order of the work."""
    required = shelf.load_head().required_roles
    return [role for role in SIGNING_ROLES if role in required]


def list_missing_roles(state: SignedState) -> list[str]:
    """Return the required roles without a valid signature.

    An author can sign before the run. Every other role signs the plan with its run.

    Args:
        state: The signatures of the revision.
    """
    signed = {
        judged.signature.role
        for judged in state.signatures
        if judged.signature in state.matching
        and (judged.covers == WITH_RUN or judged.signature.role in BEFORE_RUN)
    }
    return [role for role in load_required_roles() if role not in signed]


def accept_good_run(revision: Revision, run: RunRow, at: Callable[[], str]) -> bool:
    """Give a draft the run that verifies it.

    Without required signatures it is verified. Otherwise it waits for them.

    Args:
        revision: The draft.
        run: The good run.
        at: Current time, UTC.

    Returns:
        Whether it is verified.
    """
    revision.verifying_run = run.id
    revision.save(only=[Revision.verifying_run])
    return verify_if_signed(revision, at)


def verify_if_signed(revision: Revision, at: Callable[[], str]) -> bool:
    """Verify a revision with a verifying run, if the required roles have signed.

    Args:
        revision: The revision, a draft or one that waits for signatures.
        at: Current time, UTC.

    Returns:
        Whether it is verified.
    """
    if list_missing_roles(judge_signatures(revision)):
        revision.status = WAITING
        revision.save(only=[Revision.status])
        return False
    for before in queries.list_revisions(revision.procedure):
        if before.status == PROVED:
            before.procedure, before.status = revision.procedure, SUPERSEDED
            before.save(only=[Revision.status])
            list_record(before)
    revision.status, revision.proved_at = PROVED, at()
    revision.save(only=[Revision.status, Revision.proved_at])
    return True


def update_verifying_run(revision: Revision) -> None:
    """Choose the verifying run again, after a run was voided or corrected.

    Another good run takes its place. Without one the revision is a draft, and the newest earlier
    revision with a good run becomes the current one.

    Args:
        revision: The revision.
    """
    if revision.status == DRAFT:
        return
    good = queries.list_good_runs(revision)
    if revision.verifying_run in [run.id for run in good]:
        return
    revision.verifying_run = good[0].id if good else None
    if good:
        revision.save(only=[Revision.verifying_run])
        return
    was_proved = revision.status == PROVED
    revision.status, revision.proved_at = DRAFT, None
    revision.save(only=[Revision.status, Revision.proved_at, Revision.verifying_run])
    if was_proved:
        _restore_earlier(revision)


def _restore_earlier(revision: Revision) -> None:
    for before in reversed(queries.list_revisions(revision.procedure)):
        if before.status == SUPERSEDED and queries.list_verifying_runs(before, 1):
            before.procedure, before.status = revision.procedure, PROVED
            before.save(only=[Revision.status])
            list_record(before)
            return
