"""Orders that measure channels at rest: zeros, tares and shunt checks."""

from yoke_core.block import BlockDigest

from yoke_server.record.recorder import events
from yoke_server.record.recorder.acquisition import Phase
from yoke_server.record.recorder.board import Board, sentence
from yoke_server.record.recorder.resting import Resting


class AtRest:
    """At most one such order at a time."""

    def __init__(self, board: Board) -> None:
        self._board = board
        self._resting: Resting | None = None

    def measure(self, order: events.OrderIn) -> None:
        board = self._board
        channels = board.chosen([str(k) for k in order.arguments["channels"]])
        board.require_measurable(set(channels))
        shunt = order.kind == "shunt"
        ports = {label: board.devices[label].port for label in channels}
        board.enter(Phase.SHUNTING if shunt else Phase.MEASURING)
        self._resting = Resting(order.key, channels, ports, board.now, shunt)

    def push(self, device: str, digest: BlockDigest) -> None:
        if self._resting:
            self._resting.push(device, digest)
            self._go_on()

    def on_shunt(self, event: events.ShuntSet) -> None:
        if not self._resting or event.token != self._resting.order_key:
            return
        if event.problem:
            self.end(f"{event.device} does not switch its shunt: {event.problem}")
            return
        self._resting.switched(event.device, event.on, event.shunt_ohm)
        self._go_on()

    def _go_on(self) -> None:
        resting = self._resting
        if resting and (answer := resting.go_on()) is not None:
            self._resting = None
            self._board.done(resting.order_key, answer)
            if self._board.phase is Phase.SHUNTING:
                self._confirm_anew(resting)
            self._board.be_idle()

    def _confirm_anew(self, resting: Resting) -> None:
        """Shunts are to be confirmed off before any sample counts again, and peaks begin anew."""
        for label in resting.devices:
            self._board.devices[label].in_force = None

    def give_up(self, device: str, why: str) -> None:
        if self._resting and device in self._resting.devices:
            self.end(why)

    def tick(self) -> None:
        if self._resting and (over := self._resting.overdue(self._board.now)):
            self.end(over)

    def end(self, why: str) -> None:
        """Given up, if there is one: shunts off again, whatever was reached."""
        resting, self._resting = self._resting, None
        if resting is None:
            return
        resting.shunts_off()
        self._confirm_anew(resting)
        self._board.refuse(resting.order_key, sentence(why))
        self._board.be_idle()
