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
