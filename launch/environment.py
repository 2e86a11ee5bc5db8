"""The environment that the application's processes get."""

import os
import secrets

from launch.ordinary import WRITTEN
from launch.paths import ROOT, VAR, VENV


def application(
    database_url: str, recorder_url: str = "", database_folder: str = ""
) -> dict[str, str]:
    """Addresses, secret key and import paths; what the caller set wins.

    database_folder : where the database's files lie, if that is this computer
    """
    paths = [str(ROOT / name) for name in ("server", "core", "rig")]
    return {
        **os.environ,
        "PATH": f"{VENV / 'bin'}:{os.environ.get('PATH', '')}",
        "PYTHONPATH": ":".join([*paths, str(ROOT)]),
        "PYTHONUNBUFFERED": "1",
        "PYTHONDONTWRITEBYTECODE": "",  # modules are compiled once, not by each process anew
        "DJANGO_SETTINGS_MODULE": "yoke_server.config.settings",
        "DATABASE_URL": database_url,
        "YOKE_RECORDER_DATABASE_URL": os.environ.get("YOKE_RECORDER_DATABASE_URL")
        or recorder_url
        or database_url,
        "YOKE_DATABASE_FOLDER": os.environ.get("YOKE_DATABASE_FOLDER") or database_folder,
        "YOKE_SECRET_KEY": os.environ.get("YOKE_SECRET_KEY") or _secret_key(),
        "YOKE_MAIL_FOLDER": os.environ.get("YOKE_MAIL_FOLDER") or str(VAR / "mail"),
        "MPLCONFIGDIR": str(WRITTEN / "matplotlib"),
    }


def _secret_key() -> str:
    file = VAR / "secret-key"
    if not file.exists():
        file.parent.mkdir(exist_ok=True)
        file.touch(mode=0o600)
        file.write_text(secrets.token_urlsafe(48))
    return file.read_text()
