"""Virtual time and the tasks that share it: whose turn comes next, a seed decides."""

import heapq
import itertools
import random
from collections.abc import Callable

from greenlet import GreenletExit, getcurrent, greenlet

from tests.simulation.virtual import VirtualClock

JITTER_S = 0.01  # by which a turn may come late


class Signal:
    """Something that a task waits for; set from anywhere, taken by who waits."""

    def __init__(self, scheduler: "Scheduler") -> None:
        self._scheduler = scheduler
        self._waiting: Task | None = None
        self.is_set = False

    def set(self) -> None:
        self.is_set = True
        if self._waiting:
            self._scheduler.wake(self._waiting)

    def wait(self, timeout: float) -> bool:
        """Whether it was set within ``timeout`` s; it is not any more then."""
        if not self.is_set:
            self._waiting = self._scheduler.running
            self._scheduler.sleep(timeout)
            self._waiting = None
        was_set, self.is_set = self.is_set, False
        return was_set


class Task:
    """One thread of a process, as a greenlet; it runs until it sleeps."""

    def __init__(self, owner: object, run: Callable[[], None], hub: greenlet) -> None:
        self.owner = owner
        self.greenlet = greenlet(run, parent=hub)
        self.dead = False
        self.turn = 0  # the number of its entry in the list of what is due; older ones are void


class Scheduler:
    """Tasks and single actions in the order of their times.

    dice : draws how late each turn comes; without it every turn comes in time, in order
    """

    def __init__(self, clock: VirtualClock, dice: random.Random | None = None) -> None:
        self.clock = clock
        self._dice = dice
        self._hub = getcurrent()
        self._due: list[tuple[float, int, Task | Callable[[], object]]] = []
        self._count = itertools.count()
        self._tasks: list[Task] = []
        self.running: Task | None = None

    def spawn(self, owner: object, run: Callable[[], None]) -> Task:
        task = Task(owner, run, self._hub)
        self._tasks.append(task)
        self._wake_in(task, 0.0)
        return task

    def later(self, seconds: float, act: Callable[[], object]) -> None:
        """Do something once, in no task."""
        heapq.heappush(self._due, (self.clock.now + seconds, next(self._count), act))

    def sleep(self, seconds: float) -> None:
        """The running task goes on so much later; nothing where none runs."""
        task = self.running
        if task is not None:
            self._wake_in(task, seconds)
            self._hub.switch()
            if task.dead:
                raise GreenletExit

    def _wake_in(self, task: Task, seconds: float) -> None:
        late = self._dice.random() * JITTER_S if self._dice else 0.0
        task.turn = next(self._count)
        heapq.heappush(self._due, (self.clock.now + seconds + late, task.turn, task))

    def wake(self, task: Task) -> None:
        """A task that sleeps goes on at once."""
        self._wake_in(task, 0.0)

    def kill(self, owner: object) -> None:
        """End all tasks of a process, wherever they are: nothing of theirs is done any more."""
        for task in self._tasks:
            if task.owner is owner:
                task.dead = True
        self._tasks = [t for t in self._tasks if not t.dead]

    def run_until(self, time: float) -> None:
        """Let time pass. Raises what a task raised."""
        while self._due and self._due[0][0] <= time:
            at, turn, item = heapq.heappop(self._due)
            self.clock.now = max(self.clock.now, at)
            if not isinstance(item, Task):
                item()
            elif turn == item.turn:
                self._resume(item)
        self.clock.now = time

    def _resume(self, task: Task) -> None:
        if task.greenlet.dead:
            return
        self.running = task
        try:
            if task.dead:
                task.greenlet.throw(GreenletExit)
            else:
                task.greenlet.switch()
        finally:
            self.running = None
