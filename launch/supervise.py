"""Running the processes under supervisord, which starts again what died."""

import ctypes
import signal
import subprocess
import time
import urllib.error
import urllib.request
from dataclasses import dataclass
from pathlib import Path

from launch.install import SetupError
from launch.paths import PYTHON, ROOT, VAR, VENV

PR_SET_PDEATHSIG = 1  # linux/prctl.h

HEAD = """[supervisord]
nodaemon=true
pidfile={var}/supervisord.pid
logfile={var}/log/supervisord.log
childlogdir={var}/log
"""
PROGRAM = """
[program:{name}]
command={command}
directory={root}
autorestart=true
startretries=1000
stopasgroup=true
killasgroup=true
stopwaitsecs=6
redirect_stderr=true
stdout_logfile={var}/log/{name}.log
stdout_logfile_maxbytes=5MB
"""


@dataclass(frozen=True)
class Program:
    name: str
    command: list[str]


def programs(port: int, rig_port: int | None) -> list[Program]:
    """The processes of shared architecture: web, recorder, worker and, for a demo, the rig."""
    python, manage = str(PYTHON), str(ROOT / "server" / "manage.py")
    web = [
        python, "-m", "uvicorn", "yoke_server.config.asgi:application", "--host", "127.0.0.1",
        "--port", str(port), "--timeout-graceful-shutdown", "3", "--log-level", "warning",
    ]  # fmt: skip
    found = [
        Program("web", ["/usr/bin/env", "YOKE_POOL=1", *web]),
        Program("recorder", [python, manage, "recorder"]),
        Program("worker", [python, manage, "procrastinate", "worker"]),
    ]
    if rig_port:
        found.append(Program("rig", [python, "-m", "yoke_rig", "--port", str(rig_port)]))
    return found


def write_config(wanted: list[Program]) -> Path:
    (VAR / "log").mkdir(parents=True, exist_ok=True)
    text = HEAD.format(var=VAR)
    for program in wanted:
        text += PROGRAM.format(
            name=program.name, command=" ".join(program.command), root=ROOT, var=VAR
        )
    file = VAR / "supervisord.conf"
    file.write_text(text)
    return file


def wait_for_page(port: int, child: "subprocess.Popen[bytes]", seconds: float = 60) -> None:
    """Until the sign-in page answers."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if child.poll() is not None:
            raise SetupError(f"supervisord ended at once; see {VAR}/log/supervisord.log.")
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=2):
                return
        except (urllib.error.URLError, ConnectionError, TimeoutError):
            time.sleep(0.1)
    raise SetupError(f"The web process did not answer; see {VAR}/log/web.log.")


def _end_with_parent() -> None:
    """In the child: should the launcher be killed outright, supervisord ends the rest in order."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


def run(wanted: list[Program], env: dict[str, str], port: int, welcome: str) -> int:
    """Run everything until Ctrl-C or SIGTERM; no process is left behind."""
    config = write_config(wanted)
    # A session of its own: Ctrl-C reaches the launcher alone, which ends things in order.
    child = subprocess.Popen(
        [str(VENV / "bin" / "supervisord"), "-n", "-s", "-c", str(config)],
        env=env, cwd=ROOT, start_new_session=True,
        preexec_fn=_end_with_parent,  # noqa: PLW1509 (the launcher has no threads)
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        wait_for_page(port, child)
        print(welcome, flush=True)
        return child.wait()
    except KeyboardInterrupt:
        print("\nStopping.", flush=True)
        return 0
    finally:
        child.send_signal(signal.SIGTERM)
        child.wait(timeout=30)
