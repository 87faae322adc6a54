"""The verdict has become an object of its own."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("reviews", "0009_expectations_steps_power"), ("verdicts", "0002_from_reviews")]

    operations = [migrations.RemoveField("review", "verdict")]
