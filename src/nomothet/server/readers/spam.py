"""Simple means against machines that fill in forms."""

import re
from collections.abc import Mapping

from django.core import signing

from nomothet.server.problems import Problem, unusable

_SALT = "readers"
# Nobody writes a question in less; a page that was opened longer ago is opened anew.
LEAST_S = 3
MOST_S = 24 * 3600
MOST_LINKS = 2
# A field that people do not see, and machines fill in.
TRAP = "website"
_LINK = re.compile(r"https?://|www\.|\[url", re.I)


def stamp() -> str:
    """What a form carries, so that it is known when it was opened."""
    return signing.TimestampSigner(salt=_SALT).sign("form")


def refuse_machines(given: Mapping[str, str]) -> None:
    """Refuse what no person would send.

    Raises
    ------
    Problem
        422, with what a person could do.
    """
    signer = signing.TimestampSigner(salt=_SALT)
    try:
        signer.unsign(given.get("stamp", ""), max_age=MOST_S)
    except signing.BadSignature:
        raise unusable("This form was opened too long ago. Reload the page; your text can be pasted again.") from None
    if not _old_enough(signer, given["stamp"]):
        raise unusable("This was sent the moment the page was opened. Wait a few seconds, then send it again.")
    if given.get(TRAP):
        raise Problem(422, "Cannot be taken", "A hidden field was filled in; leave it empty.")
    text = " ".join(given.get(field, "") for field in ("text", "machine", "figure", "name"))
    if len(_LINK.findall(text)) > MOST_LINKS:
        raise unusable(f"More than {MOST_LINKS} links are not taken; name the page in words.")


def _old_enough(signer: signing.TimestampSigner, given: str) -> bool:
    try:
        signer.unsign(given, max_age=LEAST_S)
    except signing.SignatureExpired:
        return True
    return False
