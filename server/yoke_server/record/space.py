"""Room for samples."""

import shutil

from django.db import connection


def free_space() -> int | None:
    """Bytes free where the database lies, if that is this computer."""
    if connection.settings_dict["HOST"] not in ("127.0.0.1", "localhost", "::1"):
        return None
    return shutil.disk_usage("/").free
