"""Starting the real processes for a test: rig, recorder, web, worker."""

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit, urlunsplit

ROOT = Path(__file__).resolve().parents[1]
MANAGE = str(ROOT / "server" / "manage.py")


def wait_for(condition: Callable[[], Any], what: str, seconds: float = 20) -> Any:
    """What ``condition`` gives once it is true; fails the test when that takes too long."""
    deadline = time.monotonic() + seconds
    while not (found := condition()):
        if time.monotonic() > deadline:
            raise AssertionError(f"waited {seconds:g} s for {what}")
        time.sleep(0.03)
    return found


def answers(port: int) -> bool:
    with socket.socket() as s:
        return s.connect_ex(("127.0.0.1", port)) == 0


def free_ports(count: int = 3) -> int:
    """A port with free ones after it."""
    while True:
        sockets = [socket.socket() for _ in range(count)]
        try:
            sockets[0].bind(("127.0.0.1", 0))
            port = sockets[0].getsockname()[1]
            for offset in range(1, count):
                sockets[offset].bind(("127.0.0.1", port + offset))
            return port
        except OSError:
            continue
        finally:
            for s in sockets:
                s.close()


def environment(database: str) -> dict[str, str]:
    """The processes' environment, on another database of the same server."""
    url = urlsplit(os.environ["DATABASE_URL"])
    env = {**os.environ, "DATABASE_URL": urlunsplit(url._replace(path=f"/{database}"))}
    env.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)
    env["YOKE_SIGN_INS_PER_MINUTE"] = "1000"
    return env


@contextmanager
def process(command: list[str], env: dict[str, str]) -> Iterator[subprocess.Popen[bytes]]:
    """A process that ends with the block."""
    child = subprocess.Popen([sys.executable, *command], env=env, cwd=ROOT)
    try:
        yield child
    finally:
        if child.poll() is None:
            child.send_signal(signal.SIGTERM)
            try:
                child.wait(timeout=10)
            except subprocess.TimeoutExpired:
                child.kill()
                child.wait()


@contextmanager
def rig(port: int, speed: float, seed: int = 7) -> Iterator[subprocess.Popen[bytes]]:
    arguments = ["--port", f"{port}", "--speed", f"{speed}", "--seed", f"{seed}"]
    with process(["-m", "yoke_rig", *arguments], dict(os.environ)) as child:
        wait_for(lambda: answers(port + 2), "the rig")
        yield child


def recorder(database: str) -> Any:
    return process([MANAGE, "recorder"], environment(database))


def worker(database: str) -> Any:
    return process([MANAGE, "procrastinate", "worker"], environment(database))


@contextmanager
def web(database: str) -> Iterator[str]:
    """The web process; gives its address."""
    port = free_ports(1)
    command = [
        "-m", "uvicorn", "yoke_server.config.asgi:application", "--host", "127.0.0.1",
        "--port", f"{port}", "--timeout-graceful-shutdown", "2", "--log-level", "warning",
    ]  # fmt: skip
    with process(command, {**environment(database), "YOKE_POOL": "1"}):
        wait_for(lambda: answers(port), "the web process")
        yield f"http://127.0.0.1:{port}"
