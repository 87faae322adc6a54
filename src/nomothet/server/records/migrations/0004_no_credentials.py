"""Credentials in the addresses of exporters are taken out of captures, and of records that were published with them."""

from django.db import migrations

from nomothet.formats.addresses import without_credentials


def forget_credentials(apps, schema_editor):
    series = apps.get_model("passes", "Series")
    for one in series.objects.filter(source__contains="@").only("pk", "source"):
        series.objects.filter(pk=one.pk).update(source=without_credentials(one.source))
    records = apps.get_model("records", "Record")
    for record in records.objects.filter(content__icontains="@"):
        found = [capture for one in record.content["passes"] for capture in one.get("captures", [])]
        held = [capture for capture in found if without_credentials(capture.get("source", "")) != capture.get("source", "")]
        for capture in held:
            capture["source"] = without_credentials(capture["source"])
        if held:
            record.save(update_fields=["content"])


class Migration(migrations.Migration):
    dependencies = [("records", "0003_publisher"), ("passes", "0010_rounds_and_sessions")]

    operations = [migrations.RunPython(forget_credentials, migrations.RunPython.noop)]
