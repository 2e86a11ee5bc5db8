"""The scalings that sensors had in a setup before."""

from django.db import connection

from yoke_server.setups.document import SCALING_FIELDS, read_document
from yoke_server.setups.models import Setup

# The newest revision of a setup in which each sensor was wired.
LAST_WIRED_SQL = """
SELECT channel ->> 'sensor_serial', max(number)
FROM setups_setuprevision, jsonb_array_elements(document -> 'channels') AS channel
WHERE setup_id = %s AND channel ->> 'sensor_serial' = ANY(%s) GROUP BY 1
"""


def stored_scalings(setup: Setup, serials: set[str]) -> dict[str, dict[str, object]]:
    """The scaling that each sensor last had in a setup, of those that were wired there before."""
    with connection.cursor() as cursor:
        cursor.execute(LAST_WIRED_SQL, [setup.pk, list(serials)])
        last = dict(cursor.fetchall())
    found: dict[str, dict[str, object]] = {}
    for revision in setup.revisions.filter(number__in=set(last.values())):
        for channel in read_document(revision.document).channels:
            if last.get(channel.sensor_serial) == revision.number:
                fields = {name: getattr(channel, name) for name in SCALING_FIELDS}
                found.setdefault(channel.sensor_serial, fields)
    return found
