from django.db import migrations, models


class Migration(migrations.Migration):
    """Stops have a table of their own; orders know when they were asked for; recorders sign."""

    dependencies = [("bench", "0003_frames_unlogged")]
    operations = [
        migrations.RemoveIndex("order", "order_waiting"),
        migrations.RemoveIndex("order", "order_age"),
        migrations.RenameField("order", "issued_at", "requested_at"),
        migrations.AlterField("order", "requested_at", models.DateTimeField()),
        migrations.AddIndex(
            "order",
            models.Index(
                fields=["bench", "requested_at"],
                name="order_waiting",
                condition=models.Q(state="waiting"),
            ),
        ),
        migrations.AddIndex("order", models.Index(fields=["requested_at"], name="order_age")),
        migrations.CreateModel(
            "RecorderSign",
            [
                ("bench_id", models.BigIntegerField(primary_key=True, serialize=False)),
                ("holder", models.CharField(default="", max_length=80)),
                ("at", models.DateTimeField()),
            ],
        ),
        migrations.CreateModel(
            "StopRequest",
            [
                ("key", models.UUIDField(primary_key=True, serialize=False)),
                ("bench_id", models.BigIntegerField()),
                ("emergency", models.BooleanField()),
                ("requested_at", models.DateTimeField()),
                ("by", models.CharField(default="", max_length=160)),
                ("why", models.CharField(max_length=200)),
                ("run", models.BigIntegerField(null=True)),
                ("confirmed", models.BooleanField(default=False)),
                ("problem", models.CharField(default="", max_length=300)),
                ("ended_run", models.BigIntegerField(null=True)),
                ("released_at", models.DateTimeField(null=True)),
            ],
            options={
                "indexes": [
                    models.Index(
                        fields=["bench_id", "requested_at"],
                        name="stop_standing",
                        condition=models.Q(confirmed=False)
                        | models.Q(emergency=True, released_at__isnull=True),
                    )
                ]
            },
        ),
    ]
