"""Sessions that this process has seen, by their cookie; never asks the database.

It tells whose turn a request takes, not what it may do: a session that has ended meanwhile stays
known for a while.
"""

import threading
from collections import OrderedDict

MAX_SESSIONS = 4096


class KnownSessions:
    """The last sessions that somebody was signed in with."""

    def __init__(self) -> None:
        self._people: OrderedDict[str, int] = OrderedDict()
        self._lock = threading.Lock()

    def saw(self, session: str | None, person: int) -> None:
        if not session:
            return
        with self._lock:
            self._people[session] = person
            self._people.move_to_end(session)
            if len(self._people) > MAX_SESSIONS:
                self._people.popitem(last=False)

    def person_of(self, session: bytes) -> int | None:
        """The key of a user; None for a session that was not seen signed in."""
        return self._people.get(session.decode("latin-1"))


known = KnownSessions()
