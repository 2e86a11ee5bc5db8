"""Running the processes under supervisord, which starts again what died."""

import ctypes
import http.client
import signal
import subprocess
import time
from dataclasses import dataclass
from pathlib import Path

from launch import ordinary
from launch.install import SetupError
from launch.ordinary import WRITTEN
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
stopwaitsecs={patience}
redirect_stderr=true
stdout_logfile={var}/log/{name}.log
stdout_logfile_maxbytes=5MB
"""


@dataclass(frozen=True)
class Program:
    """``patience`` is how many seconds it may take to end; then it is killed."""

    name: str
    command: list[str]
    patience: int = 6


RIG = WRITTEN / "rig.json"  # where the rig says its ports
WRITE_OUT = 60  # s that the recorder may take to write what it still holds


# What a process has no use for is not given to it.
WITHOUT_KEYS = ["/usr/bin/env", "-u", "DATABASE_URL", "-u", "YOKE_SECRET_KEY"]
STRANGER = [*WITHOUT_KEYS, "-u", "YOKE_RECORDER_DATABASE_URL"]


def programs(port: int, *, rig: bool) -> list[Program]:
    """Web, recorder, both workers and, for a demo, the rig, whose ports the recorder follows."""
    python, manage = str(PYTHON), str(ROOT / "server" / "manage.py")
    web = [python, "-m", "yoke_server.config.serve", "--port", str(port)]
    recorder = [*WITHOUT_KEYS, "YOKE_ROLE=recorder"]
    follow = ["--stand-ins", str(RIG)] if rig else []
    found = [
        Program("web", ["/usr/bin/env", "YOKE_POOL=1", *web]),
        Program("recorder", [*recorder, python, manage, "recorder", *follow], WRITE_OUT),
        Program("worker", [python, manage, "worker", "--queue", "default"]),
        Program("files", [python, manage, "worker", "--queue", "files"]),
    ]
    if rig:
        found.append(
            Program(
                "rig",
                [*STRANGER, python, "-m", "yoke_rig", "--discoverable", "--announce", str(RIG)],
            )
        )
    return found


def write_config(wanted: list[Program]) -> Path:
    (VAR / "log").mkdir(parents=True, exist_ok=True)
    text = HEAD.format(var=VAR)
    for program in wanted:
        text += PROGRAM.format(
            name=program.name,
            command=" ".join(ordinary.command(program.command)),
            root=ROOT,
            var=VAR,
            patience=program.patience,
        )
    file = VAR / "supervisord.conf"
    file.write_text(text)
    return file


def wait_for_page(port: int, child: "subprocess.Popen[bytes]", seconds: float = 60) -> None:
    """Until the web process answers."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if child.poll() is not None:
            raise SetupError(f"supervisord ended at once; see {VAR}/log/supervisord.log.")
        link = http.client.HTTPConnection("127.0.0.1", port, timeout=2)
        try:  # whatever it answers: behind a proxy it sends visitors there
            link.request("GET", "/")
            link.getresponse().read()
            return
        except (OSError, http.client.HTTPException):
            time.sleep(0.1)
        finally:
            link.close()
    raise SetupError(f"The web process did not answer; see {VAR}/log/web.log.")


def end_with_parent() -> None:
    """In the child: should the launcher be killed outright, supervisord ends the rest in order."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


def run(wanted: list[Program], env: dict[str, str], port: int, welcome: str) -> int:
    """Run everything until Ctrl-C or SIGTERM; no process is left behind."""
    config = write_config(wanted)
    RIG.unlink(missing_ok=True)  # the ports of the last time
    # A session of its own: Ctrl-C reaches the launcher alone, which ends things in order.
    child = subprocess.Popen(
        [str(VENV / "bin" / "supervisord"), "-n", "-s", "-c", str(config)],
        env=env,
        cwd=ROOT,
        start_new_session=True,
        preexec_fn=end_with_parent,  # noqa: PLW1509 (the launcher has no threads)
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        wait_for_page(port, child)
        print(welcome, flush=True)
        return child.wait()
    except KeyboardInterrupt:
        print("\nStopping.", flush=True)
        return 0
    finally:
        child.send_signal(signal.SIGTERM)
        child.wait(timeout=WRITE_OUT + 15)
