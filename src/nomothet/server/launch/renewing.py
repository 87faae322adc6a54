"""New secrets for an installation, as after somebody has seen the old ones."""

from pathlib import Path

from django.db import transaction

from nomothet.server.launch.secrets import renewed, write


def renew(var: Path) -> int:
    """Make a new key and a new password of the database, seal what is sealed anew, and end all sessions.

    The database takes its password, and the server its key, when they are started again. Returns how many sessions were
    ended.
    """
    from nomothet.server.people.keys import sealed_anew
    from nomothet.server.people.models import User, Visit
    from nomothet.server.people.security import note_security

    made = renewed(var)
    with transaction.atomic():
        for user in User.objects.select_for_update():
            for field in ("totp", "totp_begun"):
                if sealed := getattr(user, field):
                    setattr(user, field, sealed_anew(sealed, made["secret_key"]))
            user.save(update_fields=["totp", "totp_begun"])
        ended, _ = Visit.objects.all().delete()
        note_security("secrets renewed", at="the terminal")
        # Written last: when this fails, nothing has changed.
        write(var, made)
    return ended
