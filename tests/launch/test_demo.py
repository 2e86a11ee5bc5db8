"""The launcher as a person uses it: up, one process killed, Ctrl-C, nothing left."""

import os
import signal
import socket
import subprocess
from contextlib import suppress
from pathlib import Path

import pytest

from launch.commands import check_port
from launch.install import SetupError
from launch.paths import ROOT
from launch.supervise import programs
from tests.bench.pages import page_answers
from tests.processes import free_ports, wait_for


def descendants(pid: int) -> dict[int, str]:
    """Processes below ``pid`` and their command lines."""
    found: dict[int, str] = {}
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):
            child, parent = (
                int(stat.parent.name),
                int(stat.read_text().rpartition(")")[2].split()[1]),
            )
            if parent == pid:
                command = (stat.parent / "cmdline").read_bytes().replace(b"\0", b" ").decode()
                found |= {child: command, **descendants(child)}
    return found


def running(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def pid_of(demo: int, words: str) -> int | None:
    return next((p for p, command in descendants(demo).items() if words in command), None)


@pytest.fixture
def demo():
    """The demo on free ports; its own environment, as from a person's shell."""
    hidden = ("DATABASE_URL", "DJANGO_SETTINGS_MODULE", "PYTHONPATH")
    env = {k: v for k, v in os.environ.items() if k not in hidden}
    port = free_ports(1)
    command = [str(ROOT / "yoke"), "demo", "--port", f"{port}"]
    child = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, text=True)
    wait_for(lambda: page_answers(port) or child.poll() is not None, "the demo", 180)
    yield child
    if child.poll() is None:
        child.kill()


def test_up_killed_restarted_and_gone(demo):
    assert demo.poll() is None, demo.stdout.read()
    first = wait_for(lambda: pid_of(demo.pid, "manage.py recorder"), "the recorder")
    os.kill(first, signal.SIGKILL)
    second = wait_for(
        lambda: (found := pid_of(demo.pid, "manage.py recorder")) != first and found, "another"
    )
    assert second != first
    family = [p for p, command in descendants(demo.pid).items() if "postgres" not in command]
    assert len(family) >= 5
    again = subprocess.run([str(ROOT / "yoke"), "demo", "--port", f"{free_ports(1)}"],
                           capture_output=True, text=True)  # fmt: skip
    assert again.returncode == 1
    assert "runs from this folder already" in again.stdout
    demo.send_signal(signal.SIGINT)
    assert demo.wait(timeout=40) == 0
    wait_for(lambda: not any(map(running, family)), "an empty house", 10)
    assert "demo-engineer" in demo.stdout.read()


def test_a_taken_port_is_told():
    with (
        socket.create_server(("127.0.0.1", 0)) as taken,
        pytest.raises(SetupError, match="Choose another with --port"),
    ):
        check_port(taken.getsockname()[1])


def test_start_runs_no_rig():
    assert [p.name for p in programs(8000, None)] == ["web", "recorder", "worker"]
    assert [p.name for p in programs(8000, 8010)][-1] == "rig"


def test_missing_debian_packages_are_named_to_ordinary_users(monkeypatch):
    from launch import install

    monkeypatch.setattr(install, "_installed", lambda name: name != "chromium")
    monkeypatch.setattr(install.os, "geteuid", lambda: 1000)
    with pytest.raises(SetupError, match=r"sudo apt-get install .* chromium"):
        install.debian()
