from django.db import migrations, models

POLARITIES = ["as wired", "cores swapped", "turned"]
TO_POLARITY = """
UPDATE wire_channel SET polarity =
    CASE WHEN wiring ->> 'kind' = 'bridge' THEN 'cores swapped' ELSE 'turned' END
WHERE reversed
"""
TO_REVERSED = "UPDATE wire_channel SET reversed = true WHERE polarity <> 'as wired'"


class Migration(migrations.Migration):
    """A channel that was reversed had its signal turned, of a bridge, or else its quantity."""

    dependencies = [("wire", "0010_specimen_of_revision")]
    operations = [
        migrations.AddField(
            "channel",
            "polarity",
            models.CharField(
                choices=list(zip(POLARITIES, ["As Wired", "Swapped", "Turned"], strict=True)),
                default="as wired",
                max_length=13,
            ),
        ),
        migrations.RunSQL(TO_POLARITY, TO_REVERSED),
        migrations.RunSQL(  # what is deferred would keep the table from being altered
            "SET CONSTRAINTS ALL IMMEDIATE", "SET CONSTRAINTS ALL IMMEDIATE"
        ),
        migrations.RemoveField("channel", "reversed"),
        migrations.AddConstraint(
            "channel",
            models.CheckConstraint(
                condition=models.Q(polarity__in=POLARITIES), name="channel_polarity_known"
            ),
        ),
    ]
