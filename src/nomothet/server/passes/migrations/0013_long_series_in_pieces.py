"""Long series leave their rows for pieces; the bytes do not leave the database for it."""

from typing import Any

from django.db import migrations
from django.db.backends.base.schema import BaseDatabaseSchemaEditor

_IN_ONE_ROW = 8 << 20
_PIECE = 4 << 20


def into_pieces(apps: Any, editor: BaseDatabaseSchemaEditor) -> None:
    with editor.connection.cursor() as cursor:
        cursor.execute("SELECT id, LENGTH(`blob`) FROM passes_series WHERE LENGTH(`blob`) > %s", [_IN_ONE_ROW])
        for series, size in cursor.fetchall():
            for offset in range(0, size, _PIECE):
                cursor.execute(
                    "INSERT INTO passes_chunk (series_id, `offset`, data)"
                    " SELECT id, %s, SUBSTRING(`blob`, %s, %s) FROM passes_series WHERE id = %s",
                    [offset, offset + 1, _PIECE, series],
                )
            cursor.execute("UPDATE passes_series SET `blob` = NULL WHERE id = %s", [series])


class Migration(migrations.Migration):
    dependencies = [("passes", "0012_doubtful_times")]

    operations = [migrations.RunPython(into_pieces, migrations.RunPython.noop)]
