"""Started as root, the application's own processes run as an ordinary user all the same."""

import functools
import grp
import os
import pwd
import subprocess
import sys

from launch.paths import PYTHON, ROOT, VAR

WRITTEN = VAR / "written"  # what those processes themselves write: caches, the rig's ports
LINES = "dialout"  # Debian's group for serial lines
STAYS_ROOT = """The processes stay root's: no ordinary user can read {root} and run its Python.
Move the checkout to where others can read it, or start it as another user."""


def command(words: list[str]) -> list[str]:
    """The command as this user's, or as an ordinary one's if this is root."""
    return [*_prefix(), *words]


def environment() -> dict[str, str]:
    """Where an ordinary user that root's launcher chose finds room for its caches."""
    if not _prefix():
        return {}
    folders = {"HOME": "", "XDG_CACHE_HOME": "cache", "PYTHONPYCACHEPREFIX": "python"}
    return {name: str(WRITTEN / folder) for name, folder in folders.items()}


@functools.cache
def _prefix() -> tuple[str, ...]:
    WRITTEN.mkdir(parents=True, exist_ok=True)
    if os.geteuid() != 0:
        return ()
    user = _user()
    groups = [str(g.gr_gid) for g in grp.getgrall() if g.gr_name == LINES]
    prefix = (
        "/usr/bin/setpriv",
        f"--reuid={user.pw_uid}",
        f"--regid={user.pw_gid}",
        "--no-new-privs",
        f"--groups={','.join(groups)}" if groups else "--clear-groups",
    )
    probe = [*prefix, str(PYTHON), "-c", "import django, launch"]
    if subprocess.run(probe, cwd=ROOT, capture_output=True).returncode:
        print(STAYS_ROOT.format(root=ROOT), file=sys.stderr, flush=True)
        return ()
    owner = f"{user.pw_uid}:{user.pw_gid}"
    subprocess.run(["chown", "-R", "--no-dereference", owner, str(WRITTEN)], check=True)
    return prefix


def _user() -> pwd.struct_passwd:
    """Whose the checkout is, unless it is root's; then nobody."""
    owner = ROOT.stat().st_uid
    return pwd.getpwuid(owner) if owner else pwd.getpwnam("nobody")
