"""The launcher's commands."""

import argparse
import fcntl
import os
import signal
import socket
import subprocess
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from types import FrameType
from typing import Any

from launch import install, ordinary, supervise
from launch.environment import application
from launch.install import SetupError
from launch.paths import PYTHON, ROOT, VAR, VENV, WEB, fingerprint
from launch.postgres import APPLICATION, KEEPER, RECORDER, TESTS, Cluster

WELCOME = """
Yoke Bench is running at http://127.0.0.1:{port}
{more}Ctrl-C stops it. Logs are in {var}/log.
"""
SIGN_INS = """Sign in as engineer, technician or reviewer; the password of each is
demo-NAME, so demo-engineer for the engineer.
"""


DEMO, OWN = "yoke_demo", "yoke"
DATA = "10"  # raised when bench or library of the demo become others
BEGUN = "begun"
MADE_ANEW = "The demo's data are of an earlier version, or were not finished: they are made anew."
TOO_OLD = """The database is of an earlier version, which this one cannot take over. It is as it
was: keep a copy of it (pg_dump yoke), or start from another checkout."""

COMPILE = [str(PYTHON), "-m", "yoke_core.warm"]
DEPLOY_CHECK = ["check", "--deploy", "--fail-level", "WARNING"]
COMMANDS = {
    "demo": "bring everything up with made-up data and a simulated bench",
    "start": "bring the application up; honours DATABASE_URL and YOKE_SECRET_KEY",
    "test": "set up and run every check and test",
    "benchmark": "run the benchmarks; bench for short",
    "person": "add somebody who may sign in to what `./yoke start` runs: NAME ROLE",
    "screenshots": "take the pictures in docs/screenshots from the demo data",
}
SHORT = {"benchmark": ["bench"]}


def parse(arguments: list[str]) -> tuple[argparse.Namespace, list[str]]:
    """The command, its options, and for test and benchmark what is passed on."""
    parser = argparse.ArgumentParser(prog="./yoke", description="Yoke Bench")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, words in COMMANDS.items():
        command = commands.add_parser(name, help=words, aliases=SHORT.get(name, []))
        command.set_defaults(command=name)
        if name in ("demo", "start"):
            command.add_argument("--port", type=int, default=8000)
        if name == "demo":
            command.add_argument("--fresh", action="store_true", help="start over")
    options, rest = parser.parse_known_args(arguments)
    if rest and options.command not in ("test", "benchmark", "person"):
        parser.error(f"unknown: {' '.join(rest)}")
    return options, rest


def main(arguments: list[str]) -> int:
    """Carry out a command line; the exit status."""
    options, rest = parse(arguments)
    # Ctrl-C too: a shell that starts us in the background has it ignored.
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _interrupt)
    actions = {
        "demo": lambda: demo(options.port, options.fresh),
        "start": lambda: start(options.port),
        "test": lambda: test(rest),
        "benchmark": lambda: with_tests_ready("tests.benchmarks", rest),
        "person": lambda: person(rest),
        "screenshots": lambda: with_tests_ready("tests.browser.screenshots", rest),
    }
    try:
        return actions[options.command]()
    except SetupError as error:
        print(error)
        return 1
    except KeyboardInterrupt:
        return 130


def _interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


@contextmanager
def cluster() -> Iterator[Cluster]:
    """The private cluster, stopped again by whoever started it."""
    found = Cluster.here()
    started = found.start()
    try:
        yield found
    finally:
        if started:
            found.stop()


def manage(env: dict[str, str], *arguments: str) -> None:
    install.run(managing(*arguments), env=env, cwd=ROOT)


def managing(*arguments: str) -> list[str]:
    """A command of Django's."""
    return ordinary.command([str(PYTHON), str(ROOT / "server" / "manage.py"), *arguments])


def ours(database: Cluster, name: str, role: str = APPLICATION) -> dict[str, str]:
    """The environment of processes that work on a database of the private cluster."""
    return application(database.url(name, role), database.url(name, RECORDER), str(database.base))


def migrate(env: dict[str, str], database: Cluster, name: str) -> None:
    """Migrate unless the database itself says that it has these migrations."""
    files = [*(ROOT / "server").glob("*/*/migrations/*.py"), ROOT / "requirements.txt"]
    mark = fingerprint(files)
    if database.said_of(name).get("migrations") != mark:
        print("Preparing the database", flush=True)
        manage(env, "migrate", "-v0")
        database.say_of(name, migrations=mark)


@contextmanager
def only_one() -> Iterator[None]:
    """One application a checkout: two recorders on one database would fight over the bench."""
    VAR.mkdir(exist_ok=True)
    with (VAR / "running").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise SetupError("Yoke Bench runs from this folder already. Stop it first.") from None
        yield


def check_port(port: int) -> None:
    with socket.socket() as s:
        if s.connect_ex(("127.0.0.1", port)) == 0:
            raise SetupError(f"Port {port} is taken. Choose another with --port.")


def compile_core(env: dict[str, str]) -> None:
    """Compile the core's loops once, so that no recording and no page waits for it."""
    subprocess.run(ordinary.command(COMPILE), env=env, check=True)


def has_other_data(database: Cluster) -> bool:
    """Whether the demo's data are those of before its bench or library changed, or half of them."""
    said = database.said_of(DEMO).get("data")
    return said is not None and said != DATA


def demo(port: int, fresh: bool) -> int:
    check_port(port)
    install.debian()
    install.python("requirements.txt")
    install.web()
    with only_one(), cluster() as database:
        database.make_database(DEMO, fresh)
        if database.is_of_an_earlier_version(DEMO) or has_other_data(database):
            print(MADE_ANEW, flush=True)
            database.make_database(DEMO, fresh=True)
        env = {**ours(database, DEMO), **ordinary.environment(), "YOKE_STAND_INS": "1"}
        migrate(env, database, DEMO)
        compile_core(env)
        if database.said_of(DEMO).get("data") != DATA:
            print("Recording the demo's first runs", flush=True)
            database.say_of(DEMO, data=BEGUN)
            manage(env, "load_demo")
            database.say_of(DEMO, data=DATA)
        welcome = WELCOME.format(port=port, var=VAR, more=SIGN_INS)
        return supervise.run(supervise.programs(port, rig=True), env, port, welcome)


def start(port: int) -> int:
    check_port(port)
    install.debian()
    install.python("requirements.txt")
    install.web()
    if url := os.environ.get("DATABASE_URL"):
        env = {**application(url), **ordinary.environment()}
        manage(env, *DEPLOY_CHECK)
        manage(env, "migrate", "-v0")
        compile_core(env)
        welcome = WELCOME.format(port=port, var=VAR, more=newcomer(env))
        with only_one():
            return supervise.run(supervise.programs(port, rig=False), env, port, welcome)
    with only_one(), cluster() as database:
        database.make_database(OWN)
        if database.is_of_an_earlier_version(OWN):
            raise SetupError(TOO_OLD)
        env = {**ours(database, OWN), **ordinary.environment()}
        manage(env, *DEPLOY_CHECK)
        migrate(env, database, OWN)
        compile_core(env)
        welcome = WELCOME.format(port=port, var=VAR, more=newcomer(env))
        return supervise.run(supervise.programs(port, rig=False), env, port, welcome)


def newcomer(env: dict[str, str]) -> str:
    """How the first person comes in, where nobody can sign in yet."""
    code = subprocess.check_output(managing("first_code"), env=env, text=True).strip()
    return f"Nobody can sign in yet: open it, and give the code {code}\n" if code else ""


def person(rest: list[str]) -> int:
    install.python("requirements.txt")
    with cluster() as database:
        database.make_database(OWN)
        url = os.environ.get("DATABASE_URL") or database.url(OWN)
        env = {**application(url), **ordinary.environment()}
        manage(env, "migrate", "-v0")
        return subprocess.run(managing("add_person", *rest), env=env).returncode


def with_tests_ready(module: str, rest: list[str]) -> int:
    """Run a module of tests/ with everything built and a database to make others from."""
    install.debian()
    install.python("requirements-dev.txt")
    install.web()
    with cluster() as database:
        env = for_tests(database, "yoke_bench")
        return subprocess.run([str(PYTHON), "-m", module, *rest], env=env, cwd=ROOT).returncode


def for_tests(database: Cluster, name: str) -> dict[str, str]:
    """As in service, but that this role may make databases; and the superuser, to break things."""
    database.make_database(name, owner=TESTS)
    if database.is_of_an_earlier_version(name):
        database.make_database(name, fresh=True, owner=TESTS)
    env = ours(database, name, TESTS)
    return {
        **env,
        "YOKE_SUPERUSER_URL": database.url(name, KEEPER),
        "YOKE_LOCAL_DEVICES": "1",
    }


def test(rest: list[str]) -> int:
    """Every check and test; with arguments, only pytest with them."""
    install.debian()
    install.python("requirements-dev.txt")
    install.web_packages()
    with cluster() as database:
        env = for_tests(database, "yoke_tests")
        made = (lambda: subprocess.run(COMPILE, env=env, check=True), install.web)
        if rest:
            together(made)
            return subprocess.run([str(VENV / "bin" / "pytest"), *rest], env=env).returncode
        *_, web_passes = together((*made, lambda: passes(WEB_TESTS, env)))
        done = [(WEB_TESTS, web_passes), *pytest_beside_checks(env)]
    failed = [" ".join(step) for step, well in done if not well]
    print("\nFailed: " + "; ".join(failed) if failed else "\nEverything passes.")
    return 1 if failed else 0


WEB_TESTS = ["npm", "run", "test"]
PYTEST = ["pytest", "-n", "2", "--dist", "loadgroup"]
# These wait for nothing, so they run beside pytest whenever a core has nothing else to do; tests
# that wait for a device, a browser or their own patience lose no time to them.
CHECKS = [
    ["mypy", "core/yoke_core", "rig/yoke_rig", "server/yoke_server", "launch"],
    ["npm", "run", "lint"],
    ["npm", "run", "types"],
    ["lint-imports"],
    ["ruff", "check", "."],
    ["ruff", "format", "--check", "."],
]
AT_REST = ("chrt", "--idle", "0")


def pytest_beside_checks(env: dict[str, str]) -> list[tuple[list[str], bool]]:
    """Each step, and whether it passes."""
    with ThreadPoolExecutor(1) as beside:
        checked = [beside.submit(passes, check, env, AT_REST) for check in CHECKS]
        print(f"\n== {' '.join(PYTEST)}", flush=True)
        try:
            tested = subprocess.run([str(VENV / "bin" / PYTEST[0]), *PYTEST[1:]], env=env, cwd=ROOT)
        except KeyboardInterrupt:
            beside.shutdown(cancel_futures=True)  # what was not begun is not begun now
            raise
    well = [tested.returncode == 0, *(check.result() for check in checked)]
    return list(zip([PYTEST, *CHECKS], well, strict=True))


def together(actions: Iterable[Callable[[], Any]]) -> list[Any]:
    """What each gives; raises what went wrong."""
    with ThreadPoolExecutor() as threads:
        return [begun.result() for begun in [threads.submit(action) for action in actions]]


def passes(step: list[str], env: dict[str, str], how: tuple[str, ...] = ()) -> bool:
    """Run one check quietly; what it says is shown if it fails."""
    command = [*how, str(VENV / "bin" / step[0]), *step[1:]]
    folder = WEB if step[0] == "npm" else ROOT
    done = subprocess.run(
        command, env=env, cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )
    words = "passes" if done.returncode == 0 else f"fails\n{done.stdout}"
    print(f"\n== {' '.join(step)}: {words}", flush=True)
    return done.returncode == 0
