from typing import Any

from django.db import migrations

from zesty_core.chain.earlier_versions import with_methods
from zesty_server.rewriting import rewrite


def name_methods(apps: Any, schema_editor: Any) -> None:
    rewrite(apps.get_model("recipes", "Recipe"), ("steps",), with_methods)
    rewrite(apps.get_model("recipes", "RecipeVersion"), ("steps",), with_methods)
    # Saved settings stand for themselves, without their step.
    for row in apps.get_model("recipes", "SavedSettings").objects.filter(type="noise_reduction"):
        row.params = with_methods({"type": row.type, "params": row.params})["params"]
        row.save(update_fields=("params",))


class Migration(migrations.Migration):
    dependencies = [("recipes", "0004_owner")]

    operations = [migrations.RunPython(name_methods, migrations.RunPython.noop)]
