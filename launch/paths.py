"""Where things are."""

import hashlib
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
VAR = ROOT / "var"
VENV = ROOT / ".venv"
WEB = ROOT / "web"
PYTHON = VENV / "bin" / "python"


def fingerprint(files: Iterable[Path]) -> str:
    """A hash over names and contents, to tell whether a step must run again."""
    digest = hashlib.sha256()
    for file in sorted(files):
        digest.update(str(file.relative_to(ROOT)).encode() + b"\0" + file.read_bytes())
    return digest.hexdigest()


def is_done(step: str, mark: str) -> bool:
    stamp = VAR / "stamps" / step
    return stamp.is_file() and stamp.read_text() == mark


def set_done(step: str, mark: str) -> None:
    stamp = VAR / "stamps" / step
    stamp.parent.mkdir(parents=True, exist_ok=True)
    stamp.write_text(mark)
