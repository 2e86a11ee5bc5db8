"""The recorder's hand on the load frame, if the bench has one."""

from yoke_server.bench.drivers.base import DriverError
from yoke_server.bench.drivers.load_frame import LoadFrame
from yoke_server.bench.models import Actuator, Link
from yoke_server.config.notify import NEWS, notify


class ActuatorLink:
    """Connects when needed and again after a loss; says in the database how it stands."""

    def __init__(self, bench_id: int) -> None:
        self._bench_id = bench_id
        self._row = Actuator.objects.filter(bench_id=bench_id).first()
        self._frame: LoadFrame | None = None
        self.motion = ""
        self.position_m: float | None = None

    def look(self) -> None:
        """Refresh motion and position; a loss is noted, not raised."""
        if self._row is None:
            return
        try:
            state = self.need().state()
        except DriverError as error:
            self._lost(str(error))
        else:
            self.motion, self.position_m = state.motion, state.position_m

    def need(self) -> LoadFrame:
        """The connected frame; raises DriverError if it cannot be had."""
        if self._row is None:
            raise DriverError("this bench has no actuator.")
        if self._frame is None:
            frame = LoadFrame(self._row.host, self._row.port)
            identity = frame.connect()
            self._frame = frame
            Actuator.objects.filter(pk=self._row.pk).update(
                link=Link.LINKED, link_note="", identity=identity.model, serial=identity.serial,
                firmware=identity.firmware, self_test=identity.self_test,
            )  # fmt: skip
            notify(NEWS, kind="bench", bench=self._bench_id)
        return self._frame

    def ramp(self, speed_m_s: float, target_m: float) -> None:
        self.need().ramp(speed_m_s, target_m)

    def go_home(self) -> None:
        self.need().go_home()

    def stop(self) -> None:
        """Stop whatever moves; without an actuator there is nothing to do.

        Raises DriverError, and notes the loss, if the frame cannot be told.
        """
        if self._row is None:
            return
        try:
            self.need().stop()
        except DriverError as error:
            self._lost(str(error))
            raise

    def _lost(self, why: str) -> None:
        if self._frame:
            self._frame.close()
        self._frame, self.motion, self.position_m = None, "", None
        lost = Actuator.objects.filter(bench_id=self._bench_id).exclude(
            link=Link.LOST, link_note=why[:300]
        )
        if lost.update(link=Link.LOST, link_note=why[:300]):
            notify(NEWS, kind="bench", bench=self._bench_id)
