"""What a bench file holds; its JSON Schema is published by the API."""

from typing import Annotated, Literal

from pydantic import Field

from yoke_server.bench.address import Host, Port
from yoke_server.common.http.fields import Body, Text

MAX_DEVICES = 64


class DeviceEntry(Body):
    """A device, and where it answers."""

    label: Annotated[str, Text(1, 12)]
    driver: Annotated[str, Text(1, 30)]
    address: Host
    port: Port


class BenchFile(Body):
    """The devices of a bench; ``yoke_bench`` is the version of this form."""

    yoke_bench: Literal[1]
    bench: Annotated[str, Text(1, 60)]
    devices: Annotated[list[DeviceEntry], Field(max_length=MAX_DEVICES)]


def schema() -> dict[str, object]:
    """JSON Schema 2020-12 of a bench file."""
    from yoke_server.bench.drivers import registry

    found = BenchFile.model_json_schema()
    found["$defs"]["DeviceEntry"]["properties"]["driver"]["enum"] = registry.names()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **found}
