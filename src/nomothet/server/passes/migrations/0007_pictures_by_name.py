"""A picture of a pass is called a picture; evidence is what a cell rests on."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("passes", "0006_output_read_again")]

    operations = [
        migrations.RenameModel(old_name="Evidence", new_name="Picture"),
        migrations.AlterField(
            model_name="picture",
            name="owner",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="pictures", to="passes.pass"
            ),
        ),
    ]
