"""What the recorder's role may do: add samples, never change them; and what else it needs.

The launcher makes the role; where a database server of one's own has none of that name, the
recorder works as the application does.
"""

from typing import Any

from django.db import connection

RECORDER = "yoke_recorder"
READS = [
    "bench_bench", "bench_device", "bench_input", "bench_order", "bench_liveframe",
    "bench_stoprequest", "bench_recordersign", "record_runprogress",
    "setups_project", "setups_setup", "setups_setupdevice", "setups_setuprevision",
    "setups_channel", "setups_balance", "setups_tare", "setups_shuntcalibration", "sensors_sensor",
    "record_run", "record_stream", "record_streamchannel", "record_segment", "record_block",
    "record_enveloperow", "record_correction", "record_marker",
    "ledger_entry", "procrastinate_jobs",
]  # fmt: skip
ADDS = [
    "bench_liveframe",
    "bench_stoprequest",
    "bench_recordersign",
    "record_runprogress",
    "record_run",
    "record_stream",
    "record_streamchannel",
    "record_segment",
    "record_block",
    "record_enveloperow",
    "record_marker",
    "ledger_entry",
    "procrastinate_jobs",
    "procrastinate_events",
]
CHANGES = {
    "bench_bench": ["state", "state_at"],
    "bench_device": [
        "port",
        "link",
        "link_note",
        "identity",
        "serial",
        "firmware",
        "self_test",
        "temperature_c",
        "battery",
        "controlled_by",
        "drift_ppm",
        "clock_steps",
    ],
    "bench_order": ["state", "answer"],
    "bench_stoprequest": ["confirmed", "problem", "ended_run", "released_at"],
    "bench_recordersign": ["holder", "at"],
    "record_runprogress": ["reached"],
    "record_run": [
        "state",
        "ended_because",
        "ended_at",
        "seal",
        "start_ns",
        "started_at",
        "discarded_at",
    ],
    "record_stream": ["samples", "seal", "fingerprint", "complete"],
}
PRUNES = ["bench_liveframe", "bench_order"]


def statements() -> list[str]:
    """Statements that revoke all rights and then grant only those listed here."""
    return [
        f"REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {RECORDER}",
        f"GRANT USAGE ON SCHEMA public TO {RECORDER}",
        f"GRANT SELECT ON {', '.join(READS)} TO {RECORDER}",
        f"GRANT INSERT ON {', '.join(ADDS)} TO {RECORDER}",
        f"GRANT DELETE ON {', '.join(PRUNES)} TO {RECORDER}",
        *(
            f"GRANT UPDATE ({', '.join(columns)}) ON {table} TO {RECORDER}"
            for table, columns in CHANGES.items()
        ),
        f"GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO {RECORDER}",
    ]


def grant(**more: Any) -> None:
    """After migrations: the role's rights, where there is such a role."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT EXISTS (SELECT FROM pg_roles WHERE rolname = %s)", [RECORDER])
        if cursor.fetchone()[0]:
            for statement in statements():
                cursor.execute(statement)
