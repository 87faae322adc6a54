"""What is kept encrypted in the database: a copy of it alone tells nothing."""

import base64

from cryptography.fernet import Fernet, MultiFernet
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from django.conf import settings


def sealed(text: str) -> str:
    """A text encrypted with a key of this installation."""
    return _fernet().encrypt(text.encode()).decode()


def unsealed(text: str) -> str:
    """The text again.

    Raises
    ------
    cryptography.fernet.InvalidToken
        When it was changed, or was encrypted with another key.
    """
    return _fernet().decrypt(text.encode()).decode()


def sealed_anew(text: str, key: str) -> str:
    """A sealed text under another key of this installation."""
    return _of_key(key).encrypt(unsealed(text).encode()).decode()


def _fernet() -> MultiFernet:
    # Texts that were sealed while the key was renewed are still under the one before.
    return MultiFernet([_of_key(key) for key in (settings.SECRET_KEY, *settings.EARLIER_KEYS)])


def _of_key(key: str) -> Fernet:
    derived = HKDF(algorithm=SHA256(), length=32, salt=None, info=b"nomothet second factor")
    return Fernet(base64.urlsafe_b64encode(derived.derive(key.encode())))
