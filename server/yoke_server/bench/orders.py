"""What a recorder is asked to do and what it answers: each kind of order is a spec of its own."""

from typing import ClassVar, Literal

from pydantic import BaseModel, ConfigDict


class OrderAnswer(BaseModel):
    """What a recorder answers to an order that it has carried out."""

    model_config = ConfigDict(frozen=True)


class Done(OrderAnswer):
    """There is nothing to tell."""


class OrderSpec(BaseModel):
    """An order; other kinds than those that concern the network stand in `kinds.orders`.

    answer : what comes back when it is done
    is_taken_always : also while the bench is busy; others only while it is idle
    is_taken_in_run : only while a run is recorded
    asks_network : answered beside the bench's work, which it does not touch
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    answer: ClassVar[type[OrderAnswer]] = Done
    is_taken_always: ClassVar[bool] = False
    is_taken_in_run: ClassVar[bool] = False
    asks_network: ClassVar[bool] = False

    kind: str

    @property
    def setup_revision(self) -> int | None:
        """The number of the revision that it is about."""
        return None

    @property
    def arguments(self) -> dict[str, object]:
        """As its row keeps them, beside its kind."""
        return self.model_dump(mode="json", exclude={"kind"})


class DiscoveredDevices(OrderAnswer):
    """What announces itself, as the drivers' discovery tells it."""

    devices: list[dict[str, object]]


class FindDevices(OrderSpec):
    """Ask the network of the bench's computer which devices are there."""

    answer: ClassVar = DiscoveredDevices
    asks_network: ClassVar = True

    kind: Literal["find"] = "find"


class Trial(OrderAnswer):
    """What a device said of itself and read."""

    model_config = ConfigDict(frozen=True, extra="allow")


class TryAddress(OrderSpec):
    """Try whether a device answers at an address."""

    answer: ClassVar = Trial
    asks_network: ClassVar = True

    kind: Literal["try"] = "try"
    driver: str
    host: str
    port: int
