"""Room for samples."""

import shutil

from django.conf import settings


def free_space() -> int | None:
    """Bytes free on the disk where the database's files lie; None where that is not known."""
    if not settings.DATABASE_FOLDER:
        return None
    try:
        return shutil.disk_usage(settings.DATABASE_FOLDER).free
    except OSError:
        return None
