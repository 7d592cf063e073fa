from typing import Any

from django.db import migrations

from zesty_server.renamed_measures import rename_in


def rename(apps: Any, schema_editor: Any) -> None:
    rename_in(apps.get_model("runs", "Run"), ("before", "after"))


class Migration(migrations.Migration):
    dependencies = [("runs", "0008_edits_and_markers")]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
