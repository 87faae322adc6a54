"""A session of somebody in the installation of this folder, for scripts that look at it, without a password."""

import os

import django


def session_of(username: str) -> dict[str, str]:
    """The cookies of a new session.

    Raises
    ------
    User.DoesNotExist
        When there is nobody of this name.
    """
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nomothet.server.settings")
    # Playwright runs an event loop in this thread; these few queries wait for nothing in it.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    django.setup()
    from django.conf import settings
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
    from django.utils import timezone

    from nomothet.server.people.models import User
    from nomothet.server.people.sessions import SessionStore

    user = User.objects.get(username=username)
    now = timezone.now().isoformat()
    session = SessionStore()
    session.update(
        {
            SESSION_KEY: str(user.pk),
            BACKEND_SESSION_KEY: "django.contrib.auth.backends.ModelBackend",
            HASH_SESSION_KEY: user.get_session_auth_hash(),
            "begun_at": now,
            "seen_at": now,
            "agent": "a script of this installation",
        }
    )
    session.create()
    session.save()
    return {settings.SESSION_COOKIE_NAME: str(session.session_key)}
