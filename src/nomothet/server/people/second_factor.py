"""The second factor: a code of six digits by time (RFC 6238), and recovery codes that stand in for it once."""

import hashlib
import secrets
import time
from dataclasses import dataclass

import pyotp
import segno
from cryptography.fernet import InvalidToken
from django.db import transaction
from django.utils import timezone

from nomothet.server.people.keys import sealed, unsealed
from nomothet.server.people.models import RecoveryCode, User
from nomothet.server.problems import conflict, unusable

RECOVERY_CODES = 10
_STEP_S = 30
_ISSUER = "Nomothet"
# Letters and digits that are not taken for one another: 10 of them are 49 bits.
_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"


@dataclass(frozen=True)
class Begun:
    """A second factor for an app: its secret, its address, and the address as a picture (a data: address)."""

    secret: str
    uri: str
    picture: str


def has_second_factor(user: User) -> bool:
    return bool(user.totp)


def begin(user: User) -> Begun:
    """A new secret, which counts once a code of it was given."""
    if user.totp:
        raise conflict("You have a second factor already; take it off first.")
    secret = pyotp.random_base32()
    user.totp_begun = sealed(secret)
    user.save(update_fields=["totp_begun"])
    uri = pyotp.TOTP(secret).provisioning_uri(name=user.username, issuer_name=_ISSUER)
    return Begun(secret, uri, segno.make(uri, error="m").svg_data_uri(scale=4, border=2))


def confirm(user: User, code: str) -> list[str]:
    """Take a second factor into use by a code of it; returns the recovery codes, which are told this once."""
    if not user.totp_begun:
        raise conflict("No second factor was begun, or it is in use already.")
    step = _step_of(unsealed(user.totp_begun), code)
    if step is None:
        raise unusable("This code is not the one of now. Look at the clock of your device and try again.", field="code")
    with transaction.atomic():
        user.totp, user.totp_begun, user.totp_step = user.totp_begun, "", step
        user.save(update_fields=["totp", "totp_begun", "totp_step"])
        return new_codes(user)


def new_codes(user: User) -> list[str]:
    """Recovery codes in place of those of before."""
    codes = ["".join(secrets.choice(_LETTERS) for _ in range(10)) for _ in range(RECOVERY_CODES)]
    with transaction.atomic():
        user.recovery_codes.all().delete()
        RecoveryCode.objects.bulk_create(RecoveryCode(user=user, digest=_digest(user, code)) for code in codes)
    return [f"{code[:5]}-{code[5:]}" for code in codes]


def take_off(user: User) -> None:
    """Sign in with the password alone from now on."""
    with transaction.atomic():
        user.totp = user.totp_begun = ""
        user.totp_step = 0
        user.save(update_fields=["totp", "totp_begun", "totp_step"])
        user.recovery_codes.all().delete()


def check_code(user: User, code: str) -> str:
    """How a code is right: "code" or "recovery"; empty where it is not. None is taken twice."""
    with transaction.atomic():
        locked = User.objects.select_for_update().get(pk=user.pk)
        try:
            secret = unsealed(locked.totp)
        except InvalidToken:
            secret = ""
        step = _step_of(secret, code) if secret else None
        if step is not None and step > locked.totp_step:
            User.objects.filter(pk=user.pk).update(totp_step=step)
            return "code"
        plain = code.replace("-", "").replace(" ", "").lower()
        used = RecoveryCode.objects.filter(user=user, digest=_digest(user, plain), used_at=None)
        return "recovery" if used.update(used_at=timezone.now()) else ""


def codes_left(user: User) -> int:
    return user.recovery_codes.filter(used_at=None).count()


def _step_of(secret: str, code: str) -> int | None:
    """The step of time that a code is of: of now, the one before or the one after."""
    given = code.strip().replace(" ", "")
    now = int(time.time()) // _STEP_S
    totp = pyotp.TOTP(secret)
    for step in (now, now - 1, now + 1):
        if pyotp.utils.strings_equal(given, totp.generate_otp(step)):
            return step
    return None


def _digest(user: User, code: str) -> str:
    # 49 random bits and a throttle before them: a slow digest would add nothing.
    return hashlib.sha256(f"{user.pk} {code}".encode()).hexdigest()
