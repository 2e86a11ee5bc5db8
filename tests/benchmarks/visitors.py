"""Many visitors of the web process, as a process of their own, until it is ended.

`python -m tests.benchmarks.visitors KIND ADDRESS PATH COOKIES NUMBER`
"""

import http.client
import socket
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress

PATIENCE = 60
SIP, PAUSE = 1 << 14, 0.5  # bytes that a slow reader takes at once, and s until the next


def reads(address: str, path: str, cookies: str, number: int) -> None:
    """Asks for a page again and again, on one connection."""
    link = http.client.HTTPConnection(address, timeout=PATIENCE)
    while True:
        link.request("GET", path, headers={"Cookie": cookies})
        link.getresponse().read()


def stranger(address: str, path: str, cookies: str, number: int) -> None:
    """Posts to an address again and again, with sessions that are made up."""
    turn = 0
    while True:
        turn += 1
        claim = {"Cookie": f"sessionid=made-up-{number}-{turn}"}
        with suppress(OSError, http.client.HTTPException):
            link = http.client.HTTPConnection(address, timeout=PATIENCE)
            link.request("POST", path, b"{}", {**claim, "Content-Type": "application/json"})
            link.getresponse().read()
            link.close()


def silent(address: str, path: str, cookies: str, number: int) -> None:
    """Keeps a connection open, and a new one when it is hung up on."""
    host, port = address.split(":")
    while True:
        with suppress(OSError), socket.create_connection((host, int(port)), PATIENCE) as link:
            link.recv(1)
        time.sleep(1.0)


def download(address: str, path: str, cookies: str, number: int) -> None:
    """Takes a file slowly, and begins anew at its end."""
    host, port = address.split(":")
    head = f"GET {path} HTTP/1.1\r\nHost: {address}\r\nCookie: {cookies}\r\n\r\n"
    while True:
        with suppress(OSError), socket.socket() as link:
            link.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, SIP)
            link.connect((host, int(port)))
            link.sendall(head.encode())
            while link.recv(SIP):
                time.sleep(PAUSE)


KINDS: dict[str, Callable[[str, str, str, int], None]] = {
    "reads": reads,
    "strangers": stranger,
    "silent": silent,
    "downloads": download,
}


def main(kind: str, address: str, path: str, cookies: str, number: str) -> None:
    for n in range(int(number)):
        threading.Thread(target=KINDS[kind], args=(address, path, cookies, n), daemon=True).start()
    threading.Event().wait()


if __name__ == "__main__":
    main(*sys.argv[1:])
