"""The signatures of a revision, judged by content and key."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Sequence
from functools import cached_property

from msgspec import Struct

from ...core.errors import InputError
from ...core.run.signature import ShopKey, Signature
from ...core.schema.documents import read_document
from ...core.schema.json_types import Json, JsonObject
from ...formats.procedure_json import ProcedureFile
from ...formats.signing import build_signed_content, calculate_digests, is_signed_by
from ...store import queries, shop_keys
from ...store.models import Revision, RunRow

# The results of a judged signature.
MATCHES, CHANGED, INVALID, UNKNOWN_KEY, UNREADABLE = (
    "matches",
    "changed",
    "invalid",
    "unknown-key",
    "unreadable",
)
# The covered content: the plan with its verifying run, or the plan before a run.
WITH_RUN, BEFORE_RUN = "run", "plan"


class JudgedSignature(Struct, frozen=True):
    """A signature and its result.

    Attributes:
        signature: The signature, or None if it cannot be read.
        result: "matches", "changed", "invalid", "unknown-key" or "unreadable".
        covers: "run" for the plan with its verifying run, "plan" without one, "" if neither.
        key: The key that made it, or None.
        is_own: Whether it is a key of this shop.
    """

    signature: Signature | None
    result: str
    covers: str = ""
    key: ShopKey | None = None
    is_own: bool = False


class SignedState(Struct, frozen=True, dict=True):
    """A revision for signing: its verifying run or None, and its judged signatures.

    Attributes:
        revision: The revision.
        run: The verifying run, or None.
        signatures: In the order of signing.
    """

    revision: Revision
    run: RunRow | None
    signatures: Sequence[JudgedSignature] = ()

    @cached_property
    def digests(self) -> tuple[str, str]:
        """Return the SHA-256 of the content without and with its verifying run."""
        run = self.run.record if self.run else None
        return calculate_digests(build_content(self.revision, None), run)

    @property
    def digest(self) -> str:
        """Return the SHA-256 of the present content."""
        return self.digests[1]

    @property
    def page_token(self) -> str:
        """Return a short text that changes with the content, for a page."""
        run = json.dumps(self.run.record, sort_keys=True) if self.run else ""
        text = f"{self.revision.id} {self.revision.edit} {self.revision.letter} {run}"
        return hashlib.sha256(text.encode()).hexdigest()[:32]

    @property
    def has_run(self) -> bool:
        """Return whether it has a verifying run."""
        return self.run is not None

    @property
    def welder(self) -> str:
        """Return the initials of the welder of the verifying run, or ""."""
        return self.run.document.who if self.run else ""

    @property
    def matching(self) -> list[Signature]:
        """Return the valid signatures of the present content."""
        return [
            judged.signature
            for judged in self.signatures
            if judged.result == MATCHES and judged.signature
        ]

    @property
    def matching_now(self) -> list[Signature]:
        """Return the valid signatures of exactly the present content, with its run."""
        return [signature for signature in self.matching if signature.content_sha256 == self.digest]

    @property
    def has_problem(self) -> bool:
        """Return whether a signature does not match."""
        return any(judged.result != MATCHES for judged in self.signatures)


# The meaning of each result, for a page, a document and the check of the library.
RESULT_SENTENCES = {
    MATCHES: "The content matches the signature.",
    CHANGED: "The content changed since it was signed.",
    INVALID: "The signature is not valid: it was not made with the key that it names.",
    UNKNOWN_KEY: "The signature cannot be checked: its key is not in this library.",
    UNREADABLE: "The signature is damaged.",
}


def list_problems(revision: Revision) -> list[str]:
    """Return a sentence for each signature that does not match its content.

    Args:
        revision: The revision.
    """
    if not revision.signatures:
        return []
    return [
        f"{RESULT_SENTENCES[judged.result]} Signed by {judged.signature.who}."
        if judged.signature
        else RESULT_SENTENCES[judged.result]
        for judged in judge_signatures(revision).signatures
        if judged.result != MATCHES
    ]


def list_key_ids(signatures: Iterable[JsonObject]) -> list[str]:
    """Return the identifiers of the keys in the data of signatures."""
    return [str(entry.get("key_id", "")) for entry in signatures if entry.get("key_id")]


def build_content(revision: Revision, verified_by: JsonObject | None) -> dict[str, Json]:
    """Return the content of a revision that a signature covers.

    Args:
        revision: The revision.
        verified_by: The record of its verifying run, or None.
    """
    return build_signed_content(
        revision.letter,
        revision.title,
        revision.joint,
        revision.plan,
        revision.bands,
        verified_by,
    )


def judge_signatures(revision: Revision) -> SignedState:
    """Return the signatures of a revision with their results.

    A signature from before the verifying run covers the plan alone.

    Args:
        revision: The revision.

    Raises:
        StoreError: The library cannot be read.
    """
    state = SignedState(revision, queries.find_verifying_run(revision))
    if not revision.signatures:
        return state
    before, digest = state.digests
    covered = {before: BEFORE_RUN, digest: WITH_RUN if state.run else BEFORE_RUN}
    keys = {key.key_id: key for key in shop_keys.list_keys(list_key_ids(revision.signatures))}
    own_ids = shop_keys.list_own_ids()
    judged = [_judge(entry, covered, keys, own_ids) for entry in revision.signatures]
    return SignedState(revision, state.run, judged)


def is_signed_with_run(revision: Revision, run: RunRow) -> bool:
    """Return whether a signature of a revision covers a run.

    Args:
        revision: The revision.
        run: One of its runs.
    """
    if revision.verifying_run != run.id:
        return False
    return any(judged.covers == WITH_RUN for judged in judge_signatures(revision).signatures)


def judge_file(procedure_file: ProcedureFile) -> list[JudgedSignature]:
    """Return the signatures of a procedure file with their results, by its own keys.

    Args:
        procedure_file: The file, parsed.
    """
    content = (
        procedure_file.letter,
        procedure_file.title,
        procedure_file.joint,
        procedure_file.plan,
        procedure_file.bands,
    )
    position = procedure_file.verified_by
    run = None if position is None else procedure_file.runs[position]
    before, digest = calculate_digests(build_signed_content(*content, None), run)
    covered = {before: BEFORE_RUN, digest: WITH_RUN if run else BEFORE_RUN}
    keys = {key.key_id: key for key in procedure_file.keys}
    return [_judge(entry, covered, keys, set()) for entry in procedure_file.signatures]


def _judge(
    entry: JsonObject, covered: dict[str, str], keys: dict[str, ShopKey], own_ids: set[str]
) -> JudgedSignature:
    try:
        signature = read_document(Signature, entry, "signature")
    except InputError:
        return JudgedSignature(None, UNREADABLE)
    key = keys.get(signature.key_id)
    covers = covered.get(signature.content_sha256, "")
    if key is None:
        return JudgedSignature(signature, UNKNOWN_KEY, covers)
    if not is_signed_by(signature, key):
        return JudgedSignature(signature, INVALID, covers, key)
    result = MATCHES if covers else CHANGED
    return JudgedSignature(signature, result, covers, key, signature.key_id in own_ids)
