from typing import Any

from django.db import migrations

from zesty_core.chain.earlier_versions import with_methods
from zesty_server.rewriting import rewrite


def name_methods(apps: Any, schema_editor: Any) -> None:
    rewrite(apps.get_model("runs", "Run"), ("chain",), with_methods)


class Migration(migrations.Migration):
    dependencies = [("runs", "0009_renamed_measures")]

    operations = [migrations.RunPython(name_methods, migrations.RunPython.noop)]
