"""Recipes and results of any kind; the worker computes results anew when it starts."""

from django.db import migrations, models

TENSION = ("fit_lower_pa", "fit_upper_pa", "offset")


def to_recipes(apps, schema_editor):
    recipe = apps.get_model("derive", "Recipe")
    for row in apps.get_model("derive", "TensionRecipeRow").objects.all():
        parameters = {"kind": "tension"} | {name: getattr(row, name) for name in TENSION}
        recipe.objects.create(setup_id=row.setup_id, parameters=parameters)


def to_rows(apps, schema_editor):
    rows = apps.get_model("derive", "TensionRecipeRow")
    for recipe in apps.get_model("derive", "Recipe").objects.order_by("-id"):
        if recipe.parameters["kind"] == "tension":
            values = {name: recipe.parameters[name] for name in TENSION}
            rows.objects.update_or_create(setup_id=recipe.setup_id, defaults=values)


ID = models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")


def to(model, related):
    return models.ForeignKey(on_delete=models.CASCADE, related_name=related, to=model)


class Migration(migrations.Migration):
    dependencies = [
        ("derive", "0002_derivation"),
        ("record", "0003_one_index_a_stream"),
        ("wire", "0002_specs"),
    ]
    operations = [
        migrations.CreateModel(
            "Recipe",
            [
                ("id", ID),
                ("parameters", models.JSONField()),
                ("version", models.PositiveIntegerField(default=1)),
                ("setup", to("wire.setup", "recipes")),
            ],
            {"ordering": ["id"]},
        ),
        migrations.RunPython(to_recipes, to_rows),
        migrations.DeleteModel("Derivation"),
        migrations.DeleteModel("TensionRecipeRow"),
        migrations.CreateModel(
            "Derivation",
            [
                ("id", ID),
                ("recipe_version", models.PositiveIntegerField()),
                ("engine", models.PositiveIntegerField()),
                ("inputs", models.JSONField()),
                ("digest", models.CharField(max_length=64)),
                ("problem", models.JSONField(null=True)),
                ("details", models.JSONField(null=True)),
                ("notes", models.JSONField(default=list)),
                ("computed_at", models.DateTimeField(auto_now=True)),
                ("recipe", to("derive.recipe", "derivations")),
                ("run", to("record.run", "derivations")),
            ],
            {
                "constraints": [
                    models.UniqueConstraint(fields=("run", "recipe"), name="derivation_once")
                ]
            },
        ),
        migrations.CreateModel(
            "Result",
            [
                ("id", ID),
                ("position", models.PositiveSmallIntegerField()),
                ("symbol", models.CharField(max_length=20)),
                ("name", models.CharField(max_length=60)),
                ("value", models.FloatField(null=True)),
                ("unit", models.CharField(max_length=12)),
                ("decimals", models.PositiveSmallIntegerField()),
                ("method", models.CharField(max_length=120)),
                ("clause", models.CharField(blank=True, max_length=60)),
                ("note", models.CharField(blank=True, max_length=200)),
                ("derivation", to("derive.derivation", "results")),
            ],
            {
                "ordering": ["position"],
                "constraints": [
                    models.UniqueConstraint(fields=("derivation", "position"), name="result_once")
                ],
            },
        ),
        migrations.CreateModel(
            "ResultArray",
            [
                ("id", ID),
                ("position", models.PositiveSmallIntegerField()),
                ("name", models.CharField(max_length=30)),
                ("unit", models.CharField(max_length=12)),
                ("data", models.BinaryField()),
                ("derivation", to("derive.derivation", "arrays")),
            ],
            {
                "ordering": ["position"],
                "constraints": [
                    models.UniqueConstraint(fields=("derivation", "position"), name="array_once")
                ],
            },
        ),
    ]
