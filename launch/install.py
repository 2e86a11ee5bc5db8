"""Installing what is missing: Debian packages, the virtual environment, the web part."""

import os
import subprocess
import sys
import venv
from pathlib import Path

from launch.paths import PYTHON, ROOT, VENV, WEB, fingerprint, is_done, set_done


class SetupError(Exception):
    """Something a person must do before Yoke Bench can start."""


def debian() -> None:
    """Install missing packages as root; otherwise raise with the line to run."""
    names = [
        line.strip()
        for line in (ROOT / "debian-packages.txt").read_text().splitlines()
        if line.strip() and not line.startswith("#")
    ]
    missing = [name for name in names if not _installed(name)]
    if not missing:
        return
    line = f"apt-get install -y --no-install-recommends {' '.join(missing)}"
    if os.geteuid() != 0:
        raise SetupError(
            "Debian packages are missing. Run this, then start again:\n"
            f"  sudo apt-get update && sudo {line}"
        )
    print(f"Installing Debian packages: {' '.join(missing)}", flush=True)
    # Keeps Debian from making and starting a cluster of its own.
    no_cluster = Path("/etc/postgresql-common/createcluster.d/yoke-bench.conf")
    if "postgresql" in missing and not no_cluster.exists():
        no_cluster.parent.mkdir(parents=True, exist_ok=True)
        no_cluster.write_text("create_main_cluster = off\n")
    env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    run(["apt-get", "update", "-q"], env=env)
    run(line.split(), env=env)


def _installed(name: str) -> bool:
    found = subprocess.run(
        ["dpkg-query", "-W", "-f", "${db:Status-Status}", name], capture_output=True, text=True
    )
    return found.stdout == "installed"


def run(command: list[str], **options: object) -> None:
    """Run a command quietly; show its output only if it fails."""
    done = subprocess.run(
        command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, **options
    )  # type: ignore[call-overload]
    if done.returncode:
        sys.stderr.write(done.stdout[-6000:])
        raise SetupError(f"This step failed: {' '.join(map(str, command))}")


def python(lock: str) -> None:
    """Make the virtual environment hold what ``lock`` names, checked by its hashes."""
    mark = fingerprint([ROOT / lock])
    if PYTHON.exists() and (is_done("python", mark) or is_done("python-" + lock, mark)):
        return
    if not PYTHON.exists():
        venv.create(VENV, with_pip=True)
    print(f"Installing Python packages from {lock}", flush=True)
    run([str(PYTHON), "-m", "pip", "install", "-q", "--require-hashes", "-r", str(ROOT / lock)])
    set_done("python-" + lock, mark)


def node_environment() -> dict[str, str]:
    """Node comes from a Python package in the virtual environment."""
    return {**os.environ, "PATH": f"{VENV / 'bin'}:{os.environ.get('PATH', '')}"}


def npm(*arguments: str) -> None:
    run([str(VENV / "bin" / "npm"), *arguments], cwd=WEB, env=node_environment())


def web_packages() -> None:
    mark = fingerprint([WEB / "package-lock.json"])
    if not ((WEB / "node_modules").is_dir() and is_done("npm", mark)):
        print("Installing web packages", flush=True)
        npm("ci")
        set_done("npm", mark)


def web() -> None:
    """Build the web part unless its sources are as they were at the last build."""
    sources = [f for f in (WEB / "src").rglob("*") if f.is_file()]
    sources += [WEB / n for n in ("package-lock.json", "vite.config.ts", "index.html")]
    mark = fingerprint(sources)
    if (WEB / "dist" / "index.html").is_file() and is_done("web", mark):
        return
    web_packages()
    print("Building the web part", flush=True)
    npm("run", "build")
    run([str(PYTHON), "-m", "servestatic.compress", "-q", str(WEB / "dist")])
    set_done("web", mark)
