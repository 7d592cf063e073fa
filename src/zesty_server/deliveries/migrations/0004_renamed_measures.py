from typing import Any

from django.db import migrations

from zesty_server.renamed_measures import rename_in


def rename(apps: Any, schema_editor: Any) -> None:
    rename_in(apps.get_model("deliveries", "Delivery"), ("measures",))


class Migration(migrations.Migration):
    dependencies = [("deliveries", "0003_intro_and_outro")]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
