"""`manage.py recorder`: the process that talks to the amplifiers."""

import signal
from typing import Any

from django.core.management.base import BaseCommand

from yoke_server.record.recorder.process import Recorder


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        recorder = Recorder()
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: recorder.stop())
        recorder.run()
