"""Who published a record is kept by name, as readers saw it."""

from django.db import migrations, models
from django.db.models import OuterRef, Subquery


def name_publishers(apps, schema_editor):
    users = apps.get_model("people", "User")
    names = users.objects.filter(pk=OuterRef("published_by")).values("display_name")[:1]
    apps.get_model("records", "Record").objects.update(publisher=Subquery(names))


class Migration(migrations.Migration):
    dependencies = [("records", "0002_withdrawn")]

    operations = [
        migrations.AddField("record", "publisher", models.CharField(max_length=150, default="")),
        migrations.RunPython(name_publishers, migrations.RunPython.noop),
        migrations.AlterField("record", "publisher", models.CharField(max_length=150)),
    ]
