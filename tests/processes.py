"""Starting the real processes for a test, on ports that they choose: rig, recorder, web, worker."""

import contextlib
import json
import os
import re
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit, urlunsplit

from launch.supervise import end_with_parent

ROOT = Path(__file__).resolve().parents[1]
MANAGE = str(ROOT / "server" / "manage.py")


def wait_for(condition: Callable[[], Any], what: str, seconds: float = 60) -> Any:
    """What ``condition`` gives once it is true; fails the test when that takes too long."""
    deadline = time.monotonic() + seconds
    while not (found := condition()):
        if time.monotonic() > deadline:
            raise AssertionError(f"waited {seconds:g} s for {what}")
        time.sleep(0.03)
    return found


def running(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def answers(port: int) -> bool:
    with socket.socket() as s:
        return s.connect_ex(("127.0.0.1", port)) == 0


def free_port() -> int:
    """A port that was free a moment ago; only for programs that are told theirs."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


def environment(database: str, speed: float = 1.0) -> dict[str, str]:
    """The processes' environment, on another database of the same server."""
    url = urlsplit(os.environ["DATABASE_URL"])
    env = {**os.environ, "DATABASE_URL": urlunsplit(url._replace(path=f"/{database}"))}
    recorder = urlsplit(os.environ.get("YOKE_RECORDER_DATABASE_URL", os.environ["DATABASE_URL"]))
    env["YOKE_RECORDER_DATABASE_URL"] = urlunsplit(recorder._replace(path=f"/{database}"))
    env.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)
    env["YOKE_CLOCK_SPEED"] = f"{speed:g}"
    env["YOKE_STAND_INS"] = "1"
    return env


@contextmanager
def process(
    command: list[str], env: dict[str, str], **options: Any
) -> Iterator["subprocess.Popen[Any]"]:
    """A process that ends with the block."""
    child = subprocess.Popen(
        [sys.executable, *command],
        env=env,
        cwd=ROOT,
        preexec_fn=end_with_parent,  # noqa: PLW1509 (should the test run be killed)
        **options,
    )
    try:
        yield child
    finally:
        if child.poll() is None:
            child.send_signal(signal.SIGCONT)
            child.send_signal(signal.SIGTERM)
            try:
                child.wait(timeout=20)
            except subprocess.TimeoutExpired:
                child.kill()
                child.wait()


@dataclass(frozen=True)
class Rig:
    """A running rig: its process, and the control port of each device."""

    child: "subprocess.Popen[Any]"
    ports: dict[str, int]

    def tell(self, device: str, line: str) -> None:
        """Give a device one line, as one more host; the TEST commands are for everybody."""
        with socket.create_connection(("127.0.0.1", self.ports[device]), 2) as link:
            link.sendall(f"{line};*OPC?\n".encode())
            link.recv(100)

    def ask(self, device: str, line: str) -> str:
        with socket.create_connection(("127.0.0.1", self.ports[device]), 2) as link:
            link.sendall(f"{line}\n".encode())
            return link.recv(1000).decode().strip()


@contextmanager
def rig(speed: float, seed: int = 7, bench: str = "shed", *more: str) -> Iterator[Rig]:
    arguments = ["-m", "yoke_rig", "--speed", f"{speed}", "--seed", f"{seed}", "--benches", bench]
    arguments += more
    with process(arguments, dict(os.environ), stdout=subprocess.PIPE, text=True) as child:
        yield Rig(child, json.loads(child.stdout.readline()))


def recorder(database: str, *arguments: str, speed: float = 1.0) -> Any:
    env = {**environment(database, speed), "YOKE_ROLE": "recorder"}
    return process([MANAGE, "recorder", *arguments], env)


def worker(database: str) -> Any:
    return process([MANAGE, "worker"], environment(database))


@contextmanager
def web(database: str, **more: str) -> Iterator[str]:
    """The web process, with more of an environment; gives the address that it says it runs at."""
    command = ["-m", "yoke_server.config.serve", "--port", "0"]
    env = {**environment(database), "YOKE_POOL": "1", "YOKE_WEB_LOG": "info", **more}
    with process(command, env, stderr=subprocess.PIPE, text=True) as child:
        for line in child.stderr:
            if found := re.search(r"running on (http://\S+)", line):
                break
        else:
            raise AssertionError("the web process did not start")
        threading.Thread(target=_pass_on, args=(child.stderr,), daemon=True).start()
        yield found[1]


def _pass_on(lines: Any) -> None:
    with contextlib.suppress(ValueError, OSError):
        for line in lines:
            if "INFO" not in line:
                sys.stderr.write(line)


class Cable:
    """A TCP relay between the recorder and a device, which a test can pull and plug in."""

    def __init__(self, port: int) -> None:
        self._target = port
        self._server = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._server.getsockname()[1])
        self._links: list[socket.socket] = []
        self.plugged = True
        threading.Thread(target=self._accept, daemon=True).start()

    def _accept(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                near, _ = self._server.accept()
                if not self.plugged:
                    near.close()
                    continue
                far = socket.create_connection(("127.0.0.1", self._target))
                self._links += [near, far]
                for a, b in ((near, far), (far, near)):
                    threading.Thread(target=self._carry, args=(a, b), daemon=True).start()

    @staticmethod
    def _carry(source: socket.socket, sink: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while data := source.recv(1 << 16):
                sink.sendall(data)
        for end in (source, sink):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def pull(self) -> None:
        self.plugged = False
        links, self._links = self._links, []
        for link in links:
            with contextlib.suppress(OSError):
                link.shutdown(socket.SHUT_RDWR)

    def plug_in(self) -> None:
        self.plugged = True
