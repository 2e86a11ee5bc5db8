"""Reading untrusted files in a separate process with limits of memory and time.

A reader is a module that is run as a program: the file comes on standard input, what it found
goes to standard output. What it says on standard error with exit code `SAID` is for people.
"""

import os
import subprocess
import sys
import threading
from pathlib import Path

from yoke_server.common.http.problems import Problem

SAID = 3
SECONDS = 10.0
MEGABYTES = 768
AT_ONCE = threading.Semaphore(2)  # more would take the computer from the recorder
WAIT = 20.0  # s for those before
HERE = Path(__file__).parents[3]


def read_apart(reader: str, content: bytes, *, what: str, hint: str) -> bytes:
    """What a reader finds in a file.

    reader : its module
    what : what the file should be, for people
    hint : what to do where it is none

    Raises a 422 problem for what cannot be read, or takes too long or too much memory; a 503
    one where too many wait.
    """
    if not AT_ONCE.acquire(timeout=WAIT):
        raise Problem(503, "Other files are being read.", hint="Try again in some seconds.")
    try:
        done = subprocess.run(
            [
                "prlimit",
                f"--as={MEGABYTES << 20}",
                f"--cpu={round(SECONDS)}",
                sys.executable,
                "-m",
                reader,
            ],
            input=content,
            capture_output=True,
            timeout=2 * SECONDS,
            env=_environment(),
        )
    except subprocess.TimeoutExpired as error:
        raise Problem(422, f"This {what} takes too long.", field="file", hint=hint) from error
    finally:
        AT_ONCE.release()
    if done.returncode == 0:
        return done.stdout
    said = done.stderr.decode("utf-8", "replace").strip() if done.returncode == SAID else ""
    raise Problem(422, said or f"The file is no {what}.", field="file", hint=hint)


def _environment() -> dict[str, str]:
    """Nothing of ours that a file has no business with."""
    threads = {"OPENBLAS_NUM_THREADS": "1", "PYTHONDONTWRITEBYTECODE": "1"}
    return {"PATH": os.environ.get("PATH", ""), "PYTHONPATH": str(HERE), **threads}
