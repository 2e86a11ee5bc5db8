"""Prepared statements on a bench's rows, for the recorder and for live screens."""

from yoke_server.common.db import notify
from yoke_server.live.hub import BenchReads

# Of the recorder

# One that has devices, or for which something was asked just now: others need no connections.
BENCHES_IN_USE = """
SELECT id, name FROM bench_bench b WHERE archived_at IS NULL AND (
    EXISTS (SELECT 1 FROM bench_device d WHERE d.bench_id = b.id)
    OR EXISTS (SELECT 1 FROM bench_order o WHERE o.bench_id = b.id
               AND o.requested_at > now() - interval '5 minutes')
    OR EXISTS (SELECT 1 FROM bench_stoprequest s WHERE s.bench_id = b.id AND NOT s.confirmed))
"""

CLAIM_ORDERS = """
UPDATE bench_order SET state = 'claimed' WHERE key IN (
    SELECT key FROM bench_order
    WHERE bench_id = %s AND state = 'waiting' AND EXISTS (
        SELECT FROM bench_recordersign WHERE bench_id = %s AND holder = %s)
    ORDER BY requested_at FOR UPDATE SKIP LOCKED)
RETURNING key, kind, arguments, requested_at,
    extract(epoch FROM expires_at - clock_timestamp())::float8
"""

PRUNE_ORDERS = """
DELETE FROM bench_order WHERE bench_id = %s AND requested_at < now() - interval '1 day'
"""

ADD_FRAME = f"""
WITH added AS (INSERT INTO bench_liveframe (bench_id, payload) VALUES ($1, $2))
SELECT pg_notify('{notify.LIVE}', $3)
"""  # noqa: S608

# Frames of a bench beyond the newest hundred; sequences are shared by benches, so they are counted.
PRUNE_FRAMES = """
DELETE FROM bench_liveframe WHERE bench_id = $1 AND seq <
    (SELECT seq FROM bench_liveframe WHERE bench_id = $1 ORDER BY seq DESC OFFSET $2 LIMIT 1)
"""

SET_STATE = f"""
WITH changed AS (UPDATE bench_bench SET state = $2, state_at = $3 WHERE id = $1)
SELECT pg_notify('{notify.STATE}', $4)
"""  # noqa: S608

# Of live screens

LIVE_READS = BenchReads(
    is_known="SELECT EXISTS (SELECT FROM bench_bench WHERE id = %s)",
    state="SELECT state FROM bench_bench WHERE id = %s",
    newest_frame="SELECT coalesce(max(seq), 0) FROM bench_liveframe WHERE bench_id = %s",
    frames_after="""
SELECT seq, payload FROM bench_liveframe WHERE bench_id = %s AND seq > %s ORDER BY seq LIMIT 50
""",
)
