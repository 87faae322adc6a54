import django.db.models.deletion
from django.db import migrations, models

# What is kept already is true; only where it belongs is written beside it.
_FILL = """
UPDATE {table} AS kept JOIN reviews_test AS test ON test.id = kept.test_id
SET kept.workload_id = test.workload_id, kept.review_id = test.review_id
"""


def _of_its_test(model: str, to: str, *, null: bool = False) -> models.ForeignKey:
    return models.ForeignKey(
        db_constraint=False,
        db_index=model == "tally",
        null=null,
        on_delete=django.db.models.deletion.DO_NOTHING,
        related_name="+",
        to=to,
    )


_FIELDS = tuple(
    (model, field, to)
    for model in ("tally", "testnoise")
    for field, to in (("workload", "workloads.workload"), ("review", "reviews.review"))
)


class Migration(migrations.Migration):
    dependencies = [
        ("passes", "0016_packs"),
        ("reviews", "0012_copied_from"),
        ("workloads", "0006_metric_notes"),
    ]

    operations = [
        *(migrations.AddField(model, field, _of_its_test(model, to, null=True)) for model, field, to in _FIELDS),
        *(
            migrations.RunSQL(_FILL.format(table=table), migrations.RunSQL.noop)
            for table in ("passes_tally", "passes_testnoise")
        ),
        *(migrations.AlterField(model, field, _of_its_test(model, to)) for model, field, to in _FIELDS),
        migrations.AddIndex(
            "testnoise",
            models.Index(fields=["workload", "metric", "scale", "review", "squares", "df"], name="noise_of_a_workload"),
        ),
    ]
