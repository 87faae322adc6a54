"""One's own preferences."""

from dataclasses import dataclass
from typing import Any

from django.conf import settings
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from nomothet.server.people.account_api import OwnView
from nomothet.server.people.models import Preferences
from nomothet.server.people.permissions import signed_in
from nomothet.server.people.preferences import MAIL_KINDS, MOST_HINTS, preferences_of, set_preferences
from nomothet.server.shapes import shape, shaped


@dataclass(frozen=True)
class PreferencesShape:
    """`scheme` is "system", "light" or "dark", `density` "roomy" or "close", `numbers` "point" or "comma", `degrees`
    "C" or "F"; `first_review` is the review through which somebody is led."""

    scheme: str
    density: str
    numbers: str
    degrees: str
    hints_read: list[str]
    first_review: int | None
    # Where letters go, of what ("named", "failed", "stopped", "due"), and whether a mail server is set at all.
    email: str
    mail: list[str]
    mail_works: bool


class PreferencesSerializer(serializers.Serializer[Any]):
    scheme = serializers.ChoiceField(Preferences.Scheme.choices, required=False)
    density = serializers.ChoiceField(Preferences.Density.choices, required=False)
    numbers = serializers.ChoiceField(Preferences.Numbers.choices, required=False)
    degrees = serializers.ChoiceField(Preferences.Degrees.choices, required=False)
    # Hints that were put away, beside those of before; none at all brings every hint back.
    hints_read = serializers.ListField(
        child=serializers.CharField(max_length=40), max_length=MOST_HINTS, required=False
    )
    first_review = serializers.IntegerField(min_value=1, required=False, allow_null=True)
    email = serializers.EmailField(max_length=200, required=False, allow_blank=True)
    mail = serializers.ListField(child=serializers.ChoiceField(MAIL_KINDS), max_length=len(MAIL_KINDS), required=False)


def preferences_shape(chosen: Preferences) -> PreferencesShape:
    return PreferencesShape(
        chosen.scheme,
        chosen.density,
        chosen.numbers,
        chosen.degrees,
        list(chosen.hints_read),
        chosen.first_review,
        chosen.user.email,
        list(chosen.mail),
        bool(settings.EMAIL_HOST),
    )


class PreferencesView(OwnView):
    @extend_schema(responses=shape(PreferencesShape))
    def get(self, request: Request) -> Response:
        return shaped(preferences_shape(preferences_of(signed_in(request))))

    @extend_schema(request=PreferencesSerializer, responses=shape(PreferencesShape))
    def patch(self, request: Request) -> Response:
        form = PreferencesSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        return shaped(preferences_shape(set_preferences(signed_in(request), **form.validated_data)))
