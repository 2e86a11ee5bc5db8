"""Checking a claimed session before a large body is accepted."""

import asyncio
from datetime import UTC, datetime

from django.contrib.sessions.models import Session
from django.db import DatabaseError, connection

AT_ONCE = asyncio.Semaphore(2)  # whoever claims sessions by the hundred waits for themselves


async def is_session(key: bytes) -> bool:
    """False also where nobody can tell: the database is away."""
    async with AT_ONCE:
        return await asyncio.to_thread(_stands, key.decode("latin-1"))


def _stands(key: str) -> bool:
    try:
        found = Session.objects.filter(session_key=key, expire_date__gt=datetime.now(UTC))
        return found.exists()
    except (DatabaseError, ValueError):  # ValueError: a NUL byte in the key
        return False
    finally:
        connection.close()
