"""The signatures of a revision, judged by content and key."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec import Struct

from ...core.errors import InputError
from ...core.run.signature import ShopKey, Signature
from ...core.schema.documents import read_document
from ...core.schema.json_types import Json, JsonObject
from ...formats.procedure_json import ProcedureFile
from ...formats.signing import build_signed_content, calculate_digest, is_signed_by
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


class SignedState(Struct, frozen=True):
    """The content of a revision for signing, and its judged signatures.

    Attributes:
        digest: SHA-256 of the present content.
        has_run: Whether it has a verifying run.
        welder: Initials of the welder of the verifying run, or "".
        signatures: In the order of signing.
    """

    digest: str
    has_run: bool
    welder: str
    signatures: Sequence[JudgedSignature]

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
    run = queries.find_verifying_run(revision)
    digest = calculate_digest(build_content(revision, run.record if run else None))
    if not revision.signatures:
        return SignedState(digest, run is not None, run.document.who if run else "", ())
    before = calculate_digest(build_content(revision, None)) if run else digest
    covered = {before: BEFORE_RUN, digest: WITH_RUN if run else BEFORE_RUN}
    keys = {key.key_id: key for key in shop_keys.list_keys(list_key_ids(revision.signatures))}
    own_ids = shop_keys.list_own_ids()
    judged = [_judge(entry, covered, keys, own_ids) for entry in revision.signatures]
    return SignedState(digest, run is not None, run.document.who if run else "", judged)


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
    covered = {calculate_digest(build_signed_content(*content, None)): BEFORE_RUN}
    if run is not None:
        covered[calculate_digest(build_signed_content(*content, run))] = WITH_RUN
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
