"""Verdicts that were a text of the review become a use without a name."""

from typing import Any

from django.db import migrations


def _carry_over(apps: Any, editor: Any) -> None:
    verdicts, revisions = apps.get_model("verdicts", "Verdict"), apps.get_model("verdicts", "Revision")
    for review in apps.get_model("reviews", "Review").objects.exclude(verdict=""):
        use = {
            "key": "whole",
            "name": "",
            "outcome": "",
            "judged": [],
            "conditions": {"settings": "", "room": "", "workload": "", "basis": ""},
            "text": review.verdict,
        }
        made = verdicts.objects.create(review=review, uses=[use])
        revisions.objects.create(verdict=made, version=1, uses=[use])


class Migration(migrations.Migration):
    dependencies = [("verdicts", "0001_initial"), ("reviews", "0009_expectations_steps_power")]

    operations = [migrations.RunPython(_carry_over, migrations.RunPython.noop)]
