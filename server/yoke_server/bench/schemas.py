from ninja import Schema


class DeviceOut(Schema):
    id: int
    label: str
    link: str
    link_note: str
    identity: str
    serial: str
    firmware: str
    self_test: str


class AmplifierOut(DeviceOut):
    input_count: int
    temperature_c: float | None


class BenchOut(Schema):
    """A bench, its devices, and who holds its yoke."""

    id: int
    name: str
    active_setup: int | None
    yoke_holder: str
    yoke_mine: bool
    yoke_me_elsewhere: bool
    amplifiers: list[AmplifierOut]
    actuator: DeviceOut | None
