"""Where a request comes from, as far as that can be known."""

from django.conf import settings
from django.http import HttpRequest


def client_address(request: HttpRequest) -> str:
    """The address of the connection; behind one of our own proxies, the one that it names.

    Of a chain of forwarders only our proxies are believed, from the last one backwards: what
    stands before them anybody may have written.
    """
    address = str(request.META.get("REMOTE_ADDR", ""))
    named = request.headers.get("X-Forwarded-For", "").split(",")
    for _ in settings.PROXIES:  # no chain of ours is longer
        if address in settings.PROXIES and named and (last := named.pop().strip()):
            address = last
    return address[:45]
