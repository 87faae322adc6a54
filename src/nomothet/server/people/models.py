"""People and their roles."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Role(models.TextChoices):
    READER = "reader"
    TESTER = "tester"
    EDITOR = "editor"
    ADMIN = "admin"


class Team(models.Model):
    """What the team has agreed on; there is one row at most."""

    two_signatures = models.BooleanField(default=False)

    @classmethod
    def settings(cls) -> "Team":
        return cls.objects.first() or cls()


class User(AbstractUser):
    """Somebody who signs in. Each role may do what the roles before it may."""

    display_name = models.CharField(max_length=120)
    role = models.CharField(max_length=8, choices=Role.choices, default=Role.READER)

    @property
    def rank(self) -> int:
        return Role.values.index(self.role)


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
