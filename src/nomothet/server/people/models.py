"""People, their roles, and what they sign in with."""

from django.contrib.auth.models import AbstractUser
from django.contrib.sessions.base_session import AbstractBaseSession, BaseSessionManager
from django.db import models
from django.utils.functional import cached_property


class Role(models.TextChoices):
    READER = "reader"
    TESTER = "tester"
    EDITOR = "editor"
    ADMIN = "admin"


class Team(models.Model):
    """What the team has agreed on; there is one row at most."""

    class SecondFactor(models.TextChoices):
        NOBODY = ""
        ADMINS = "admins"
        EVERYBODY = "everybody"

    # Its name, as pages say it; empty where nobody has given one.
    name = models.CharField(max_length=120, blank=True)
    # Of the secret by which the first admin is made; empty once there is one.
    begin_digest = models.CharField(max_length=64, blank=True)
    two_signatures = models.BooleanField(default=False)
    # Who needs a second factor to do more than read.
    second_factor = models.CharField(max_length=9, blank=True, choices=SecondFactor.choices)

    @classmethod
    def settings(cls) -> "Team":
        return cls.objects.first() or cls()


class User(AbstractUser):
    """Somebody who signs in. Each role may do what the roles before it may. Nobody is ever deleted: what they did stays
    on record under their name."""

    display_name = models.CharField(max_length=120)
    role = models.CharField(max_length=8, choices=Role.choices, default=Role.READER)
    # The secret of the second factor, encrypted; empty without one.
    totp = models.CharField(max_length=200, blank=True)
    # One that was begun and is not confirmed yet.
    totp_begun = models.CharField(max_length=200, blank=True)
    # The last step of 30 s whose code was taken: none is taken twice.
    totp_step = models.PositiveBigIntegerField(default=0)
    # Until when they have been told of what was changed about how they sign in.
    told_until = models.DateTimeField(null=True)

    @property
    def rank(self) -> int:
        return Role.values.index(self.role)

    @cached_property
    def owes_second_factor(self) -> bool:
        """Whether the team asks them for a second factor that they have not set."""
        if self.totp:
            return False
        asked = Team.settings().second_factor
        return asked == Team.SecondFactor.EVERYBODY or (asked == Team.SecondFactor.ADMINS and self.role == Role.ADMIN)


class Visit(AbstractBaseSession):
    """A session of a browser, with whose it is and where it was begun."""

    user = models.ForeignKey(User, null=True, on_delete=models.CASCADE, related_name="visits")
    address = models.CharField(max_length=45, blank=True)
    agent = models.CharField(max_length=200, blank=True)
    begun_at = models.DateTimeField(null=True)
    seen_at = models.DateTimeField(null=True)

    objects = BaseSessionManager()  # type: ignore[misc]

    @classmethod
    def get_session_store_class(cls) -> type:
        from nomothet.server.people.sessions import SessionStore

        return SessionStore


class Token(models.Model):
    """A personal token of a script; its secret is kept as a digest alone."""

    class Scope(models.TextChoices):
        READING = "reading"
        RECORDING = "recording"

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="tokens")
    name = models.CharField(max_length=80)
    scope = models.CharField(max_length=9, choices=Scope.choices)
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
    used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at", "-pk"]


class OneTimeLink(models.Model):
    """A link by which somebody sets a password once; its secret is kept as a digest alone."""

    class Purpose(models.TextChoices):
        INVITATION = "invitation"
        RESET = "reset"

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="links")
    purpose = models.CharField(max_length=10, choices=Purpose.choices)
    digest = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)


class RecoveryCode(models.Model):
    """A code that stands in once for the second factor."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="recovery_codes")
    digest = models.CharField(max_length=64)
    used_at = models.DateTimeField(null=True)


class Failures(models.Model):
    """How often in a row signing in has failed, by a name or an address; names are kept as digests."""

    key = models.CharField(max_length=64, unique=True)
    count = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField()


class SecurityEvent(models.Model):
    """Something that matters for who may do what: kept, read by admins, changed by nobody."""

    at = models.DateTimeField(auto_now_add=True, db_index=True)
    kind = models.CharField(max_length=40)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    about = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    address = models.CharField(max_length=45, blank=True)
    # Such as the name that was tried, the role before and after, or the record.
    values = models.JSONField(default=dict)

    class Meta:
        ordering = ["-at", "-pk"]


class Preferences(models.Model):
    """How somebody likes pages to be; who has chosen nothing has no row."""

    class Scheme(models.TextChoices):
        SYSTEM = "system"
        LIGHT = "light"
        DARK = "dark"

    class Density(models.TextChoices):
        ROOMY = "roomy"
        CLOSE = "close"

    class Numbers(models.TextChoices):
        POINT = "point"
        COMMA = "comma"

    class Degrees(models.TextChoices):
        CELSIUS = "C"
        FAHRENHEIT = "F"

    user = models.OneToOneField(User, on_delete=models.CASCADE, related_name="preferences")
    scheme = models.CharField(max_length=6, choices=Scheme.choices, default=Scheme.SYSTEM)
    density = models.CharField(max_length=5, choices=Density.choices, default=Density.ROOMY)
    # What stands before decimals, and what warmth is told in.
    numbers = models.CharField(max_length=5, choices=Numbers.choices, default=Numbers.POINT)
    degrees = models.CharField(max_length=1, choices=Degrees.choices, default=Degrees.CELSIUS)
    # Names of the hints that they have put away.
    hints_read = models.JSONField(default=list)
    # Of what they are told by e-mail: "named", "failed", "stopped", "due"; and what they were told of that still waits.
    mail = models.JSONField(default=list)
    mailed = models.JSONField(default=list)
    # The review through which they were led, as long as they want to be.
    first_review = models.PositiveIntegerField(null=True)
