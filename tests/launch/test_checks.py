"""The checks of `./yoke test`: each is told as it ends, and takes no time from the tests."""

import os

from launch.commands import AT_REST, passes

AT_IDLE = "import os; assert os.sched_getscheduler(0) == os.SCHED_IDLE"


def test_a_check_that_fails_says_why(capsys):
    failing = ["python", "-c", "raise SystemExit('line 7 is wrong')"]
    assert not passes(failing, dict(os.environ), AT_REST)
    assert "fails\nline 7 is wrong" in capsys.readouterr().out


def test_a_check_runs_when_nothing_else_does(capsys):
    assert passes(["python", "-c", AT_IDLE], dict(os.environ), AT_REST)
    assert capsys.readouterr().out.endswith(": passes\n")
