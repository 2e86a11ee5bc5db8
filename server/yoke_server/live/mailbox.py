"""What waits for one screen: frames, news and the state of its bench, each in a queue of its own.

A slow screen loses its oldest frames, never news; of the state it gets the newest.
"""

import asyncio
from collections import deque

FRAMES = 40  # a slow screen may be behind before it loses its oldest
NEWS = 500  # beyond that it is told to load everything anew
RELOAD = '{"kind": "reload"}'
Message = bytes | str


class Mailbox:
    """Filled by the hub, emptied by the screen's socket; both in one event loop."""

    def __init__(self) -> None:
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

    async def get(self) -> Message:
        """The next message: state first, since it says what frames mean, then news, then frames."""
        while True:
            await self._something.wait()
            if self._state is not None:
                state, self._state = self._state, None
                return state
            if self._news:
                return self._news.popleft()
            if self._frames:
                return self._frames.popleft()
            self._something.clear()
