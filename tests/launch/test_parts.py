"""The launcher's parts: environment, stamps, supervisor's configuration, command line."""

import configparser
import socket
import subprocess

import pytest

from launch import environment, ordinary, paths, supervise
from launch.commands import BEGUN, DATA, has_other_data, parse
from launch.postgres import Cluster


def test_what_the_caller_sets_wins(monkeypatch):
    monkeypatch.setenv("YOKE_SECRET_KEY", "given")
    env = environment.application("postgresql://somewhere/else")
    assert env["YOKE_SECRET_KEY"] == "given"
    assert env["DATABASE_URL"] == "postgresql://somewhere/else"
    monkeypatch.setenv("YOKE_RECORDER_DATABASE_URL", "postgresql://recorder@somewhere/else")
    env = environment.application("postgresql://somewhere/else", "postgresql://ours")
    assert env["YOKE_RECORDER_DATABASE_URL"] == "postgresql://recorder@somewhere/else"


@pytest.mark.parametrize(
    ("command", "known"),
    [(supervise.WITHOUT_KEYS, ["YOKE_RECORDER_DATABASE_URL"]), (supervise.STRANGER, [])],
)
def test_no_process_is_given_what_it_has_no_use_for(command, known):
    names = ("DATABASE_URL", "YOKE_SECRET_KEY", "YOKE_RECORDER_DATABASE_URL")
    told = subprocess.run(
        [*command, "env"], env=dict.fromkeys(names, "secret"), capture_output=True, text=True
    )
    assert [line.partition("=")[0] for line in told.stdout.splitlines()] == known


def test_a_secret_key_is_made_once_and_is_nobody_elses(monkeypatch, tmp_path):
    monkeypatch.delenv("YOKE_SECRET_KEY", raising=False)
    monkeypatch.setattr(environment, "VAR", tmp_path)
    first = environment.application("x")["YOKE_SECRET_KEY"]
    assert environment.application("x")["YOKE_SECRET_KEY"] == first
    assert len(first) > 40
    assert (tmp_path / "secret-key").stat().st_mode & 0o077 == 0


def test_a_step_is_done_until_its_files_change(monkeypatch, tmp_path):
    monkeypatch.setattr(paths, "VAR", tmp_path / "var")
    monkeypatch.setattr(paths, "ROOT", tmp_path)
    file = tmp_path / "lock"
    file.write_text("one")
    mark = paths.fingerprint([file])
    assert not paths.is_done("step", mark)
    paths.set_done("step", mark)
    assert paths.is_done("step", mark)
    file.write_text("two")
    assert not paths.is_done("step", paths.fingerprint([file]))


def test_every_process_is_started_again_and_stopped_as_a_group(monkeypatch, tmp_path):
    monkeypatch.setattr(supervise, "VAR", tmp_path)
    config = configparser.RawConfigParser()
    config.read(supervise.write_config(supervise.programs(8123, rig=True)))
    sections = [s for s in config.sections() if s.startswith("program:")]
    assert len(sections) == 5
    for section in sections:
        assert config[section]["autorestart"] == "true"
        assert config[section]["killasgroup"] == "true"
    assert "config.serve --port 8123" in config["program:web"]["command"]
    rig, recorder = config["program:rig"], config["program:recorder"]
    assert rig["command"].startswith(" ".join(ordinary.command(supervise.STRANGER)))
    assert recorder["command"].startswith(" ".join(ordinary.command(supervise.WITHOUT_KEYS)))
    assert rig["command"].split()[-1] == recorder["command"].split()[-1] == str(supervise.RIG)
    assert int(recorder["stopwaitsecs"]) >= 60


def test_a_port_that_is_taken_at_the_last_moment_is_left_for_another(monkeypatch, tmp_path):
    (tmp_path / "data").mkdir()
    (tmp_path / "data" / "PG_VERSION").write_text("15")
    tried = []

    def start(self, check):
        tried.append(self.port)
        return len(tried) == 3

    monkeypatch.setattr(Cluster, "running", lambda self: False)
    monkeypatch.setattr(Cluster, "_start", start)
    monkeypatch.setattr(Cluster, "_make_roles", lambda self: None)
    with socket.create_server(("127.0.0.1", 0)) as other:
        taken = other.getsockname()[1]
        (tmp_path / "port").write_text(str(taken))
        assert Cluster(tmp_path).start()
    assert len(set(tried) - {taken}) == 3


@pytest.mark.parametrize(
    ("said", "anew"),
    [({}, False), ({"data": DATA}, False), ({"data": "1"}, True), ({"data": BEGUN}, True)],
)
def test_a_demo_of_another_version_or_half_made_is_made_anew(monkeypatch, said, anew):
    monkeypatch.setattr(Cluster, "said_of", lambda self, name: said)
    assert has_other_data(Cluster.here()) is anew


def test_what_is_noted_at_a_database_goes_with_it():
    database = Cluster.here()
    name = "yoke_launch_test"
    try:
        database.make_database(name, fresh=True)
        assert database.said_of(name) == {}
        database.say_of(name, migrations="abc", data="it's there")
        assert database.said_of(name) == {"migrations": "abc", "data": "it's there"}
        assert not database.is_of_an_earlier_version(name)
        database._sql("CREATE TABLE bench_amplifier (id int)", name)
        assert database.is_of_an_earlier_version(name)
        database.make_database(name, fresh=True)
        assert (database.said_of(name), database.is_of_an_earlier_version(name)) == ({}, False)
    finally:
        database._sql(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)')


def test_command_lines():
    options, _ = parse(["demo", "--port", "9000", "--fresh"])
    assert (options.command, options.port, options.fresh) == ("demo", 9000, True)
    assert parse(["test", "tests/core", "-k", "tension"])[1] == ["tests/core", "-k", "tension"]
    with pytest.raises(SystemExit):
        parse(["demo", "--frsh"])
    with pytest.raises(SystemExit):
        parse(["fly"])
