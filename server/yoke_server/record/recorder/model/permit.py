"""A permit to move: what the runner grants and renews, and the actuator's port reads."""

PERMIT_S = 0.8  # s that a permit holds unless it is renewed


class Permit:
    """Permission of one motion to go on; the actuator's port reads it.

    One that was revoked, or that ran out, never holds again.
    """

    def __init__(self, motion_id: str, now: float) -> None:
        self.motion_id = motion_id
        self._until = now + PERMIT_S
        self._revoked = False

    def holds(self, now: float) -> bool:
        """``now``: monotonic seconds. From any thread."""
        return not self._revoked and now < self._until

    def renew(self, now: float) -> None:
        if self.holds(now):
            self._until = now + PERMIT_S
        else:
            self.revoke()

    def revoke(self) -> None:
        """From any thread."""
        self._revoked = True
