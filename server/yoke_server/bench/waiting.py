"""Waiting for the recorder's answer to an order without holding a thread or a connection."""

import asyncio
import time
from collections.abc import Callable
from contextlib import suppress
from typing import ParamSpec, TypeVar

from asgiref.sync import SyncToAsync, sync_to_async
from django.conf import settings
from django.db import connections

from yoke_server.bench.models import Order, OrderState, StopRequest
from yoke_server.bench.orders import OrderAnswer
from yoke_server.bench.stops import GivenStop, StopRequested
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.live.hub import Expected, hub

P = ParamSpec("P")
T = TypeVar("T")
A = TypeVar("A", bound=OrderAnswer)

LOOK_EVERY = 1.0  # s, should the news of an answer be lost
TELL_AGAIN = 1.0  # s after which a stop that is not confirmed is told once more
LOOK_ALONE = 0.05  # s, where nobody listens for news (a command, a test)


async def in_thread(action: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
    """Do what uses the database in this request's thread."""
    return await sync_to_async(action)(*args, **kwargs)


async def answer_to(order: Order, shape: type[A]) -> A:
    """The recorder's answer, of the shape that the order's kind says.

    Raises a 503 problem if none comes, a 409 one if it refused. Not inside a transaction:
    the recorder must see the order. An order that is no longer waited for is given up: the
    recorder does not begin with it any more.
    """
    with hub.expecting(str(order.pk)) as told:
        while True:
            told.event.clear()
            answer = await in_thread(answer_so_far, order)
            if answer is not None:
                return shape.model_validate(answer)
            left = order.given_up_at - time.monotonic()
            if left <= 0:
                return shape.model_validate(await in_thread(_give_up, order))
            await let_go()
            with suppress(TimeoutError):
                patience = LOOK_EVERY if hub.listening.is_set() else LOOK_ALONE
                await asyncio.wait_for(told.event.wait(), min(left, patience))


async def confirmation_of(given: GivenStop) -> None:
    """Wait until the recorder confirms the stop; the stop is repeated meanwhile.

    Raises a 503 problem if it does not say so in time, a 409 one with what went wrong. The stop
    stays in force in any case.
    """
    stop = given.stop
    with hub.expecting(stop.key) as told:
        until = time.monotonic() + settings.ORDER_SECONDS
        again_at = time.monotonic() + TELL_AGAIN
        while (problem := await _problem_of(stop, told)) is None:
            if (left := until - time.monotonic()) <= 0:
                raise Problem(
                    503,
                    "The recorder does not confirm the stop.",
                    code=ProblemType.STOP_NOT_CONFIRMED,
                    hint="Use the emergency stop at the bench. The stop stays in force.",
                )
            await let_go()
            with suppress(TimeoutError):
                patience = LOOK_EVERY if hub.listening.is_set() else LOOK_ALONE
                await asyncio.wait_for(told.event.wait(), min(left, patience))
            if time.monotonic() >= again_at:
                again_at = time.monotonic() + TELL_AGAIN
                await in_thread(given.tell_again)
    if problem:
        raise Problem(
            409,
            problem,
            code=ProblemType.STOP_NOT_CONFIRMED,
            hint="Use the emergency stop at the bench.",
        )


async def _problem_of(stop: StopRequested, told: Expected) -> str | None:
    """What went wrong with a stop, empty if nothing; None as long as it is not confirmed."""
    if told.answer is not None:
        return str(told.answer.get("problem", ""))
    return await in_thread(_stored_problem, stop.key)


def _stored_problem(key: str) -> str | None:
    rows = StopRequest.objects.filter(pk=key, confirmed=True)
    return rows.values_list("problem", flat=True).first()


def answer_so_far(order: Order) -> dict[str, object] | None:
    """None as long as there is none; raises a 409 problem if the recorder refused."""
    order.refresh_from_db(fields=["state", "answer"])
    if order.state == OrderState.REFUSED:
        raise Problem(
            409,
            order.answer["title"],
            code=ProblemType.RECORDER_REFUSED,
            hint=order.answer.get("hint", ""),
        )
    return order.answer if order.state == OrderState.DONE else None


def _give_up(order: Order) -> dict[str, object]:
    given_up = Order.objects.filter(pk=order.pk).exclude(state=OrderState.DONE)
    if not given_up.update(
        state=OrderState.REFUSED, answer={"title": "Nobody took the order in time."}
    ):
        order.refresh_from_db(fields=["answer"])
        return order.answer  # done at the last moment
    raise Problem(
        503,
        "The recorder does not answer.",
        code=ProblemType.RECORDER_SILENT,
        hint="It is started again by itself; wait some seconds and try again.",
    )


async def let_go() -> None:
    """Give back the connection and the thread of a served request; the next action takes new ones.

    Outside a request (a command, a test) both are the caller's own.
    """
    context = SyncToAsync.thread_sensitive_context.get(None)
    if context is None:
        return
    await sync_to_async(connections.close_all)()
    if executor := SyncToAsync.context_to_thread_executor.pop(context, None):
        executor.shutdown(wait=False)
