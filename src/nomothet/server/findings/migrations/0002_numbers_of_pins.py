"""Pins get numbers that a text can name them by, in the order that they stand in."""

from typing import Any

from django.db import migrations, models


def _number(apps: Any, editor: Any) -> None:
    given: dict[int, int] = {}
    for pin in apps.get_model("findings", "Pin").objects.order_by("review", "position", "pk"):
        given[pin.review_id] = given.get(pin.review_id, 0) + 1
        pin.number = given[pin.review_id]
        pin.save(update_fields=["number"])


class Migration(migrations.Migration):
    dependencies = [("findings", "0001_initial")]

    operations = [
        migrations.AddField("pin", "number", models.PositiveIntegerField(default=0), preserve_default=False),
        migrations.AddField("pin", "unpinned_at", models.DateTimeField(null=True)),
        migrations.RunPython(_number, migrations.RunPython.noop),
        migrations.AddConstraint(
            "pin", models.UniqueConstraint(fields=["review", "number"], name="one_pin_of_a_number")
        ),
    ]
