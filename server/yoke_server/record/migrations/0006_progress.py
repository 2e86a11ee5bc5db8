import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """What a run has reached; where its streams begin; segments that follow each other."""

    dependencies = [("record", "0005_checksums")]
    operations = [
        migrations.CreateModel(
            "RunProgress",
            [
                (
                    "run",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        primary_key=True,
                        related_name="progress",
                        serialize=False,
                        to="record.run",
                    ),
                ),
                ("reached", models.JSONField(default=dict)),
            ],
        ),
        migrations.AddField("stream", "first_acquisition", models.BigIntegerField(null=True)),
        migrations.AddField("stream", "first_sequence", models.BigIntegerField(null=True)),
        migrations.AddField("stream", "first_device_ns", models.BigIntegerField(null=True)),
        migrations.AddField("stream", "first_bench_ns", models.BigIntegerField(null=True)),
        migrations.RunSQL(
            """
            CREATE FUNCTION record_segment_in_order() RETURNS trigger LANGUAGE plpgsql AS $$
            DECLARE
                earlier record_segment;
            BEGIN
                SELECT * INTO earlier FROM record_segment
                WHERE stream_id = NEW.stream_id AND first_sample < NEW.first_sample
                ORDER BY first_sample DESC LIMIT 1;
                -- a thousand nanoseconds for rounding
                IF FOUND AND NEW.bench_ns + 1000 < earlier.bench_ns
                    + (NEW.first_sample - earlier.first_sample) * 1e9 / earlier.rate_hz
                THEN
                    RAISE EXCEPTION 'a segment begins before the one before it ends'
                        USING ERRCODE = 'check_violation', CONSTRAINT = 'segment_in_order';
                END IF;
                RETURN NEW;
            END $$;
            CREATE TRIGGER segment_in_order BEFORE INSERT ON record_segment
            FOR EACH ROW EXECUTE FUNCTION record_segment_in_order();
            """,
            """
            DROP TRIGGER segment_in_order ON record_segment;
            DROP FUNCTION record_segment_in_order();
            """,
        ),
    ]
