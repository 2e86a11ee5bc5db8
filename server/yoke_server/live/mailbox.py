"""The queues of one screen: frames, news and the state of its bench.

A slow screen loses its oldest frames, never news; of the state it gets the newest.
"""

import asyncio
from collections import deque

FRAMES = 40  # a slow screen may be behind before it loses its oldest
NEWS = 500  # beyond that it is told to load everything anew
RELOAD = '{"kind": "reload"}'
Message = bytes | str


class Mailbox:
    """Filled by the hub, emptied by the screen's socket; both in one event loop.

    ``session`` (its mark) and ``user`` say whose screen it is.
    """

    def __init__(self, session: str = "", user: int = 0) -> None:
        self._owner = {"session": session, "user": user}
        self._ended = False
        self._frames: deque[bytes] = deque(maxlen=FRAMES)
        self._news: deque[str] = deque()
        self._state: str | None = None
        self._something = asyncio.Event()

    def frame(self, payload: bytes) -> None:
        self._frames.append(payload)
        self._something.set()

    def news(self, text: str) -> None:
        if len(self._news) >= NEWS:
            self._news.clear()
            text = RELOAD
        self._news.append(text)
        self._something.set()

    def state(self, text: str) -> None:
        self._state = text
        self._something.set()

    def belongs_to(self, ended: dict[str, object]) -> bool:
        return any(self._owner[name] == value for name, value in ended.items())

    def end(self) -> None:
        """End this screen's queues: its viewer has lost the right to see it."""
        self._ended = True
        self._something.set()

    async def get(self) -> Message | None:
        """The next message: state first, since it says what frames mean, then news, then frames.

        None when there will be no more.
        """
        while True:
            await self._something.wait()
            if self._ended:
                return None
            if self._state is not None:
                state, self._state = self._state, None
                return state
            if self._news:
                return self._news.popleft()
            if self._frames:
                return self._frames.popleft()
            self._something.clear()
