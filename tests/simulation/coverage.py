"""What a search has looked at: which event in which phase, and for how long runs were recorded."""

from collections import Counter

from yoke_server.live.protocol import Phase

from tests.simulation.schedules import FAULTS, PERSON, Player

EVENTS = sorted(set(FAULTS) | {name for names in PERSON.values() for name in names})


class Coverage:
    def __init__(self) -> None:
        self.times: Counter[tuple[str, str]] = Counter()  # by phase and event
        self._recording_s = self._passed_s = 0.0

    def add(self, player: Player) -> None:
        self.times.update(player.rules.coverage)
        self._recording_s += player.rules.recording_s
        self._passed_s += player.passed_s

    def merge(self, other: "Coverage") -> None:
        self.times.update(other.times)
        self._recording_s += other._recording_s
        self._passed_s += other._passed_s

    @property
    def recording(self) -> float:
        """Share of the time in which a run was open."""
        return self._recording_s / self._passed_s

    def unseen(self, phases: list[str]) -> list[tuple[str, str]]:
        """Faults that never happened in these phases."""
        return [(p, e) for p in phases for e in sorted(FAULTS) if not self.times[p, e]]

    def table(self) -> str:
        """A line an event, a column a phase."""
        phases = [*(p.value for p in Phase), "no recorder"]
        width = max(map(len, EVENTS))
        lines = [f"{'':{width}}  " + " ".join(f"{p[:9]:>9}" for p in phases)]
        for event in EVENTS:
            row = " ".join(f"{self.times[p, event] or '.':>9}" for p in phases)
            lines.append(f"{event:{width}}  {row}")
        return "\n".join(lines)
