"""A report belongs to a project and is made of blocks; its run is the one it was begun with."""

from django.db import migrations, models
from django.db.models import deletion


def to_blocks(apps, schema_editor):
    recipes = apps.get_model("derive", "Recipe")
    for report in apps.get_model("report", "Report").objects.select_related("run__setup", "run__revision"):
        run = report.run
        report.project_id = run.setup.project_id
        blocks = [{"kind": "run_facts", "run": run.pk}]
        for recipe in recipes.objects.filter(setup_id=run.setup_id).order_by("pk"):
            both = {"run": run.pk, "recipe": recipe.pk}
            blocks += [{"kind": "result_table", **both}, {"kind": "result_picture", **both}]
        keys = [c.get("key") or f"row-{c['id']}" for c in run.revision.document["channels"]]
        if keys:
            blocks.append({"kind": "course", "run": run.pk, "channels": keys[:9]})
        blocks += [{"kind": k, "run": run.pk} for k in ("channel_table", "raw_data")]
        report.blocks = blocks
        report.save(update_fields=["project", "blocks"])


def one_a_run(apps, schema_editor):
    found = apps.get_model("report", "Report").objects.values("run").annotate(n=models.Count("pk"))
    if found.filter(n__gt=1).exists():
        raise RuntimeError("A run has several reports, which the older version does not know.")


class Migration(migrations.Migration):
    # Rows are changed and then columns altered: not in one transaction's pending triggers.
    atomic = False
    dependencies = [
        ("report", "0002_problem"),
        ("derive", "0003_recipes"),
        ("wire", "0003_programme"),
    ]
    operations = [
        migrations.AddField("report", "blocks", models.JSONField(default=list)),
        migrations.AddField("report", "project", models.ForeignKey(
            null=True, on_delete=deletion.CASCADE, related_name="reports", to="wire.project",
        )),
        migrations.AlterField("report", "run", models.ForeignKey(
            on_delete=deletion.CASCADE, related_name="reports", to="record.run",
        )),
        migrations.RunPython(to_blocks, one_a_run),
        migrations.AlterField("report", "project", models.ForeignKey(
            on_delete=deletion.CASCADE, related_name="reports", to="wire.project",
        )),
    ]
