"""System checks that refuse unsafe settings at startup."""

from typing import Any

from django.conf import settings
from django.core.checks import CheckMessage, Error, Tags, register

LOOPBACK = {"127.0.0.1", "localhost", "[::1]"}


@register(Tags.security)
def tls_beyond_this_computer(app_configs: Any, **more: Any) -> list[CheckMessage]:
    """Passwords and sessions leave this computer encrypted, or not at all."""
    elsewhere = sorted(set(settings.ALLOWED_HOSTS) - LOOPBACK)
    if settings.TLS or not elsewhere:
        return []
    return [
        Error(
            f"{', '.join(elsewhere)} would be served without TLS.",
            hint="Set YOKE_TLS=1 behind a proxy with TLS (docs/security.md), or leave YOKE_HOSTS.",
            id="yoke.E001",
        )
    ]


@register(Tags.security)
def hosts_are_named(app_configs: Any, **more: Any) -> list[CheckMessage]:
    if any("*" in host or host.startswith(".") for host in settings.ALLOWED_HOSTS):
        hint = "Name each host in YOKE_HOSTS: websockets and links rely on it."
        return [Error("YOKE_HOSTS names no hosts.", hint=hint, id="yoke.E002")]
    return []
