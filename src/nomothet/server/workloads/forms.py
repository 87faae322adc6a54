"""What a workload may hold, checked field by field."""

from typing import Any

from rest_framework import serializers

from nomothet.server.systems.api import CheckSerializer
from nomothet.server.workloads.models import Kind

DIRECTIONS = ("higher", "lower", "neither")
SCALES = ("ratio", "difference")
STEP_KINDS = ("scene", "route", "input", "start", "end", "warm-up", "duration", "other")


class StepSerializer(serializers.Serializer[Any]):
    kind = serializers.ChoiceField(choices=STEP_KINDS)
    words = serializers.CharField(max_length=300)
    seconds = serializers.FloatField(required=False, allow_null=True, min_value=0, max_value=1_000_000)


class SettingSerializer(serializers.Serializer[Any]):
    key = serializers.RegexField(r"^[a-z][a-z0-9_]*$", max_length=60)
    label = serializers.CharField(max_length=60)  # type: ignore[assignment]
    unit = serializers.CharField(required=False, allow_blank=True, max_length=12)
    values = serializers.ListField(child=serializers.JSONField(), required=False, max_length=200)


class MetricSerializer(serializers.Serializer[Any]):
    key = serializers.RegexField(r"^[a-z][a-z0-9_]*$", max_length=60)
    label = serializers.CharField(max_length=60)  # type: ignore[assignment]
    unit = serializers.CharField(allow_blank=True, max_length=20)
    direction = serializers.ChoiceField(choices=DIRECTIONS)
    scale = serializers.ChoiceField(choices=SCALES)
    role = serializers.CharField(required=False, allow_blank=True, max_length=30)


class RequirementSerializer(serializers.Serializer[Any]):
    aspect = serializers.CharField(max_length=80)
    label = serializers.CharField(max_length=80)  # type: ignore[assignment]
    least = serializers.FloatField(required=False, allow_null=True, min_value=0)
    unit = serializers.CharField(required=False, allow_blank=True, max_length=12)


class RuleSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(required=False, allow_blank=True, max_length=60)
    kind = serializers.ChoiceField(choices=("text", "json", "table"))
    expression = serializers.CharField(max_length=500)
    metric = serializers.CharField(required=False, allow_blank=True, max_length=60)


def _words(most: int = 200) -> serializers.ListField:
    return serializers.ListField(child=serializers.CharField(max_length=2000, trim_whitespace=False), max_length=most)


class CommandSerializer(serializers.Serializer[Any]):
    """How a bench starts a workload. Words go to the system as they are; no shell sees them.

    `{size}` in a word stands for the test's setting of that name.
    """

    arguments = serializers.ListField(
        child=serializers.CharField(max_length=2000, trim_whitespace=False), min_length=1, max_length=200
    )
    environment = serializers.DictField(
        child=serializers.CharField(max_length=2000, allow_blank=True, trim_whitespace=False), required=False
    )
    directory = serializers.CharField(max_length=500, required=False, allow_blank=True)
    time_limit_s = serializers.FloatField(required=False, allow_null=True, min_value=0.1, max_value=1_000_000)
    silent_s = serializers.FloatField(required=False, allow_null=True, min_value=1, max_value=1_000_000)
    nice = serializers.IntegerField(required=False, min_value=0, max_value=19)
    prepare = serializers.ListField(child=_words(), required=False, max_length=20)
    clean_up = serializers.ListField(child=_words(), required=False, max_length=20)
    warm_ups = serializers.IntegerField(required=False, min_value=0, max_value=20)
    cool_to_c = serializers.FloatField(required=False, allow_null=True, min_value=-20, max_value=130)
    cool_most_s = serializers.FloatField(required=False, allow_null=True, min_value=0, max_value=36_000)
    cool_s = serializers.FloatField(required=False, allow_null=True, min_value=0, max_value=36_000)
    files = serializers.ListField(child=serializers.CharField(max_length=200), required=False, max_length=20)


class ComparableSerializer(serializers.Serializer[Any]):
    version = serializers.CharField(max_length=40)
    why = serializers.CharField(max_length=300)


class WorkloadSerializer(serializers.Serializer[Any]):
    key = serializers.SlugField(max_length=50)
    name = serializers.CharField(max_length=120)
    version = serializers.CharField(max_length=40)
    kind = serializers.ChoiceField(choices=Kind.choices)
    description = serializers.CharField(required=False, allow_blank=True, max_length=2000)
    procedure = serializers.CharField(required=False, allow_blank=True, max_length=2000)
    steps = StepSerializer(many=True, required=False)
    runner = serializers.CharField(required=False, allow_blank=True, max_length=60)
    command = CommandSerializer(required=False, allow_null=True)
    settings = SettingSerializer(many=True, required=False)
    metrics = MetricSerializer(many=True, required=False)
    requirements = RequirementSerializer(many=True, required=False)
    files = serializers.CharField(required=False, allow_blank=True, max_length=2000)
    duration_s = serializers.FloatField(required=False, allow_null=True, min_value=0.1, max_value=1_000_000)
    warm_up_s = serializers.FloatField(required=False, allow_null=True, min_value=0, max_value=100_000)
    rules = RuleSerializer(many=True, required=False)
    judgement = serializers.CharField(required=False, allow_blank=True, max_length=2000)
    comparable = ComparableSerializer(many=True, required=False)
    checks = CheckSerializer(many=True, required=False)
    first_run_apart = serializers.BooleanField(required=False)
