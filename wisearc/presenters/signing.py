"""The signatures of a revision as text: one line for each signature and each missing role."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from ..core.run.signature import CHECKER, SIGNING_ROLES, WELDER
from ..services.people.people import normalise_initials
from ..services.procedures.judged_signatures import (
    BEFORE_RUN,
    MATCHES,
    RESULT_SENTENCES,
    JudgedSignature,
    SignedState,
    judge_signatures,
)
from ..services.procedures.signatures import list_open_roles
from ..services.procedures.states import WAITING, list_missing_roles
from ..services.records import Revision

_ALL_MATCH = "The content matches its signatures."
_ONE_MATCHES = "The content matches its signature."
_SOME_DIFFER = "The content does not match its signatures."
SELF_CHECKED = "The welder of the run also inspected it. A second person sees more."


class SignatureLine(Struct, frozen=True):
    """A signature or a missing role.

    Attributes:
        role: Name of the role.
        who: Initials, or "".
        name: Name of the person, or "".
        when: Time, UTC, "2026-05-04T10:00:00Z", or "".
        result: Result of the signature, or "missing".
        sentence: The meaning of the result, or the confirmation of the person.
        key: The key and its shop, for a signature of another shop, or "".
        vouched_by: Initials of the lead whose PIN was used, or "".
        position: Position of the signature, or -1.
        digest: SHA-256 of the signed content, or "".
    """

    role: str
    who: str
    name: str = ""
    when: str = ""
    result: str = "missing"
    sentence: str = ""
    key: str = ""
    vouched_by: str = ""
    position: int = -1
    digest: str = ""

    @property
    def is_valid(self) -> bool:
        """Return whether the signature matches the content."""
        return self.result == MATCHES


class SigningView(Struct, frozen=True):
    """The signatures of a revision for a page or a document.

    Attributes:
        lines: Signatures in the order of signing, then missing required roles.
        summary: Whether the content matches, or "".
        has_problem: Whether a signature does not match.
        open_roles: Roles in which it can be signed now, with their names.
        missing: Names of the required roles that have not signed.
        is_waiting: Whether the revision waits for signatures.
        token: Changes with the content, for the form.
        digest: SHA-256 of the signed content, or "" without signatures.
        note: A remark about the signatures, or "".
        welder: Initials of the welder of the verifying run, or "".
    """

    lines: Sequence[SignatureLine]
    summary: str
    has_problem: bool
    open_roles: dict[str, str]
    missing: Sequence[str]
    is_waiting: bool
    token: str
    digest: str
    note: str
    welder: str

    @property
    def signed(self) -> list[SignatureLine]:
        """Return the lines of signatures, without missing roles."""
        return [line for line in self.lines if line.position >= 0]


def build_signing_view(revision: Revision) -> SigningView:
    """Return the signatures of a revision as text.

    Args:
        revision: The revision.

    Raises:
        StoreError: The library cannot be read.
    """
    state = judge_signatures(revision)
    lines = [_build_line(i, judged) for i, judged in enumerate(state.signatures)]
    missing = [SIGNING_ROLES[role] for role in list_missing_roles(state)]
    lines += [SignatureLine(name, "") for name in missing]
    return SigningView(
        lines,
        _summarise(state),
        state.has_problem,
        {role: SIGNING_ROLES[role] for role in list_open_roles(revision, state)},
        missing,
        revision.status == WAITING,
        state.page_token,
        state.digest if state.signatures else "",
        SELF_CHECKED if _is_self_checked(state) else "",
        state.welder,
    )


def _summarise(state: SignedState) -> str:
    if not state.signatures:
        return ""
    if state.has_problem:
        return _SOME_DIFFER
    return _ONE_MATCHES if len(state.signatures) == 1 else _ALL_MATCH


def _is_self_checked(state: SignedState) -> bool:
    by_role = {entry.role: normalise_initials(entry.who) for entry in state.matching}
    return CHECKER in by_role and by_role[CHECKER] == by_role.get(
        WELDER, normalise_initials(state.welder)
    )


def _build_line(position: int, judged: JudgedSignature) -> SignatureLine:
    signature, sentence = judged.signature, RESULT_SENTENCES[judged.result]
    if signature is None:
        return SignatureLine("signature", "", "", "", judged.result, sentence, position=position)
    if judged.result == MATCHES:
        sentence = signature.meaning
        if judged.covers == BEFORE_RUN:
            sentence = f"{signature.meaning} Signed before the run.".strip()
    key = ""
    if judged.key and not judged.is_own:
        key = f"{judged.key.shop or 'another shop'}, key {judged.key.key_id[:8]}"
    return SignatureLine(
        SIGNING_ROLES[signature.role],
        signature.who,
        signature.name,
        signature.when,
        judged.result,
        sentence,
        key,
        signature.vouched_by,
        position,
        signature.content_sha256,
    )
