"""A signature of a revision: role, person, time, meaning, and the digest of the signed content."""

from typing import Annotated

from msgspec import Struct

from ..schema.entries import Entry, list_options

AUTHOR, WELDER, CHECKER, APPROVER = "author", "welder", "checker", "approver"
# The roles in the order of the work, with their names on screen.
SIGNING_ROLES = {
    AUTHOR: "author",
    WELDER: "welder",
    CHECKER: "checker",
    APPROVER: "approver",
}
# The confirmation of a person by role.
MEANINGS = {
    AUTHOR: "I wrote this procedure.",
    WELDER: "I welded the run that verifies this procedure.",
    CHECKER: "I inspected the run that verifies this procedure.",
    APPROVER: "I approve this procedure for use.",
}
# Only an author can sign before a run verifies the revision.
BEFORE_RUN = frozenset({AUTHOR})
MAX_SIGNATURES, MAX_SIGNER, MAX_MEANING, MAX_KEYS = 100, 60, 200, 100
KEY_ID_LENGTH, MAX_BASE64 = 32, 120


class Signature(Struct, frozen=True):
    """A signature as in a procedure file.

    Attributes:
        role: "author", "welder", "checker" or "approver".
        who: Initials.
        when: Time, UTC.
        content_sha256: SHA-256 over the canonical JSON of the signed content.
        signature: Ed25519 signature over the canonical JSON of the other fields, base64.
        key_id: The key of the shop.
        name: Name of the person.
        meaning: The confirmation of the person.
        vouched_by: Initials of the lead whose PIN was used, or "" for the PIN of the person.
    """

    role: Annotated[str, Entry("name", names=list_options(SIGNING_ROLES), required=True)]
    who: Annotated[str, Entry("text", high=MAX_SIGNER, required=True)]
    when: Annotated[str, Entry("moment", required=True)]
    content_sha256: Annotated[str, Entry("sha256", required=True)]
    signature: Annotated[str, Entry("text", high=MAX_BASE64, required=True)]
    key_id: Annotated[str, Entry("text", high=KEY_ID_LENGTH, required=True)]
    name: Annotated[str, Entry("text", high=MAX_SIGNER)] = ""
    meaning: Annotated[str, Entry("text", high=MAX_MEANING)] = ""
    vouched_by: Annotated[str, Entry("text", high=MAX_SIGNER)] = ""


class ShopKey(Struct, frozen=True):
    """The public part of the key of a shop.

    Attributes:
        key_id: First 32 hexadecimal digits of the SHA-256 of the public key.
        public: Public key, Ed25519, base64.
        shop: Name of the shop.
    """

    key_id: Annotated[str, Entry("text", high=KEY_ID_LENGTH, required=True)]
    public: Annotated[str, Entry("text", high=MAX_BASE64, required=True)]
    shop: Annotated[str, Entry("text", high=MAX_SIGNER)] = ""
