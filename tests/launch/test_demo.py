"""The launcher as a person uses it: up, one process killed, Ctrl-C, nothing left."""

import fcntl
import json
import os
import shutil
import signal
import socket
import subprocess
import urllib.request
from contextlib import suppress
from pathlib import Path

import pytest

from launch import ordinary
from launch.commands import check_port
from launch.install import SetupError
from launch.paths import ROOT, VAR
from launch.postgres import Cluster
from launch.supervise import RIG, programs
from tests.benchmarks.pages import page_answers
from tests.processes import free_port, running, wait_for

together = pytest.mark.xdist_group("demo")  # the tests of one demo, in their order


@pytest.fixture(scope="module")
def alone():
    """One application a checkout: tests of other workers wait for their turn."""
    with (VAR / "launch-tests").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


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


def pid_of(demo: int, words: str) -> int | None:
    return next((p for p, command in descendants(demo).items() if words in command), None)


def clean_environment():
    """As from a person's shell."""
    hidden = ("DATABASE_URL", "DJANGO_SETTINGS_MODULE", "PYTHONPATH")
    return {k: v for k, v in os.environ.items() if k not in hidden and not k.startswith("YOKE_")}


@pytest.fixture(scope="module")
def demo(alone):
    """The demo on a free port; the last test of it ends it."""
    port = free_port()
    command = [str(ROOT / "yoke"), "demo", "--port", f"{port}"]
    child = subprocess.Popen(command, env=clean_environment(), stdout=subprocess.PIPE, text=True)
    child.port = port
    try:
        wait_for(lambda: page_answers(port) or child.poll() is not None, "the demo", 400)
        yield child
    finally:
        if child.poll() is None:
            child.send_signal(signal.SIGINT)
            child.wait(timeout=90)


def test_a_taken_port_is_told():
    with (
        socket.create_server(("127.0.0.1", 0)) as taken,
        pytest.raises(SetupError, match="Choose another with --port"),
    ):
        check_port(taken.getsockname()[1])


def test_start_runs_no_rig():
    assert [p.name for p in programs(8000, rig=False)] == ["web", "recorder", "worker", "files"]


def second_checkout(folder):
    """What is tracked, with this one's packages, built web part and compiled core."""
    tracked = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True)
    for name in tracked.stdout.split("\n"):
        if name and (ROOT / name).is_file():
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(ROOT / name, folder / name)  # what is compiled knows it by its time
    for compiled in (ROOT / "core").glob("**/__pycache__"):
        shutil.copytree(compiled, folder / compiled.relative_to(ROOT))
    (folder / ".venv").symlink_to(ROOT / ".venv")
    shutil.copytree(ROOT / "web" / "dist", folder / "web" / "dist")
    shutil.copytree(VAR / "stamps", folder / "var" / "stamps")
    return folder


def signed_in(port):
    """A session on a demo."""
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    opener.open(f"http://127.0.0.1:{port}/", timeout=5)
    jar = next(h for h in opener.handlers if hasattr(h, "cookiejar")).cookiejar
    token = next(c.value for c in jar if c.name == "csrftoken")
    body = json.dumps({"username": "engineer", "password": "demo-engineer"}).encode()
    headers = {"X-CSRFToken": token, "Content-Type": "application/json"}
    opener.open(urllib.request.Request(f"http://127.0.0.1:{port}/api/session", body, headers))
    return opener


def links(opener, port):
    """Of the devices of all benches."""

    def ask(path):
        with opener.open(f"http://127.0.0.1:{port}/api/benches{path}", timeout=5) as answer:
            return json.load(answer)

    devices = [d for b in ask("")["items"] for d in ask(f"/{b['id']}")["devices"]]
    return {d["label"]: d["link"] for d in devices}


@together
def test_two_demos_side_by_side_each_have_a_bench_of_their_own(demo, tmp_path):
    assert demo.poll() is None, demo.stdout.read()
    other = second_checkout(tmp_path / "second")
    port = free_port()
    command = [str(other / "yoke"), "demo", "--port", f"{port}"]
    with (tmp_path / "log").open("w") as log:
        second = subprocess.Popen(command, env=clean_environment(), stdout=log, stderr=log)
    try:
        wait_for(lambda: page_answers(port) or second.poll() is not None, "the second", 400)
        assert second.poll() is None, (tmp_path / "log").read_text()
        labels = ("A1", "A2", "A3", "M1", "M2", "Load frame", "Servo")
        all_linked = dict.fromkeys(labels, "linked")
        for where in (demo.port, port):
            opener = signed_in(where)
            wait_for(lambda o=opener, w=where: links(o, w) == all_linked, "the links", 60)
        ports = [json.loads(f.read_text()) for f in (RIG, other / RIG.relative_to(ROOT))]
        assert not set(ports[0].values()) & set(ports[1].values())
    finally:
        second.send_signal(signal.SIGINT)
        second.wait(timeout=90)
        name = str(other).strip("/").replace("/", "-")
        shutil.rmtree(Path("/var/lib/yoke-bench") / name, ignore_errors=True)


@together
def test_up_killed_restarted_and_gone(demo):
    assert demo.poll() is None, demo.stdout.read()
    first = wait_for(lambda: pid_of(demo.pid, "manage.py recorder"), "the recorder")
    os.kill(first, signal.SIGKILL)
    second = wait_for(
        lambda: (found := pid_of(demo.pid, "manage.py recorder")) != first and found, "another"
    )
    assert second != first
    passwords = [f.read_text() for f in Cluster.here().base.glob("password*")]
    assert len(passwords) >= 3
    shown = " ".join(descendants(demo.pid).values())
    assert not [p for p in passwords if p in shown]
    if ordinary.command([]):  # started as root: only what starts the others stays root's
        names = ("config.serve", "manage.py recorder", "manage.py worker", "yoke_rig")
        users = {n: Path(f"/proc/{pid_of(demo.pid, n)}").stat().st_uid for n in names}
        assert 0 not in users.values(), users
    family = [p for p, command in descendants(demo.pid).items() if "postgres" not in command]
    assert len(family) >= 5
    again = subprocess.run(
        [str(ROOT / "yoke"), "demo", "--port", f"{free_port()}"], capture_output=True, text=True
    )
    assert again.returncode == 1
    assert "runs from this folder already" in again.stdout
    demo.send_signal(signal.SIGINT)
    assert demo.wait(timeout=40) == 0
    wait_for(lambda: not any(map(running, family)), "an empty house", 10)
    assert "demo-engineer" in demo.stdout.read()


def test_missing_debian_packages_are_named_to_ordinary_users(monkeypatch):
    from launch import install

    monkeypatch.setattr(install, "_installed", lambda name: name != "chromium")
    monkeypatch.setattr(install.os, "geteuid", lambda: 1000)
    with pytest.raises(SetupError, match=r"sudo apt-get install .* chromium"):
        install.debian()
