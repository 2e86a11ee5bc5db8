"""The web process: what is refused before Django sees a request."""

import asyncio
import http.client
import json
import socket
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import AsyncExitStack, ExitStack, contextmanager, suppress
from urllib.parse import urlsplit

import numpy as np
import psycopg
import pytest
import websockets
from django.contrib.sessions.models import Session
from django.db import connection
from django.test import Client
from django.utils.module_loading import import_string
from websockets.sync.client import connect
from yoke_server.accounts import people
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.known import known
from yoke_server.accounts.models import User
from yoke_server.bench.models import Bench, Order, OrderState, StopRequest
from yoke_server.config.concurrency import MAX_OPEN, ConcurrencyLimiter, Refused
from yoke_server.config.connections import MAX_QUIET
from yoke_server.config.request_guard import RequestGuard

from tests import processes
from tests.processes import wait_for
from tests.recorded import block, record

JSON = "application/json"
PROBLEM = "application/problem+json"

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(scope="module")
def web(django_db_setup):
    quick = {"YOKE_HEAD_SECONDS": "1", "YOKE_BODY_SECONDS": "1", "YOKE_SESSION_LOOK_SECONDS": "1"}
    with processes.web(str(connection.settings_dict["NAME"]), **quick) as found:
        yield urlsplit(found).netloc


@pytest.fixture
def address(web, database, setup):
    """The module's web process, over a database that is this test's."""
    return web


@contextmanager
def visitor(address, role=None):
    """(ask, cookies): a client of the web process, signed in as a role or not."""
    cookies = ""
    if role:
        client = Client()
        client.force_login(User.objects.get(username=role))
        token = "t" * 32
        cookies = f"sessionid={client.cookies['sessionid'].value}; csrftoken={token}"
    link = http.client.HTTPConnection(address, timeout=20)

    def ask(method, path, body=None, **headers):
        more = {"X-CSRFToken": "t" * 32, "Content-Type": JSON, "Cookie": cookies, **headers}
        link.request(method, path, body, {k: v for k, v in more.items() if v})
        answer = link.getresponse()
        answer.content = answer.read()
        return answer

    try:
        yield ask, cookies
    finally:
        link.close()


def test_the_same_headers_on_every_answer_and_problems_for_every_failure(address):
    with visitor(address, "reviewer") as (ask, _), visitor(address) as (stranger, _):
        page = ask("GET", "/")
        script = page.content.decode().split('src="')[1].split('"')[0]
        answers = {
            (200, "page"): page,
            (200, "file"): ask("GET", "/index.html"),
            (200, "script"): ask("GET", script),
            (200, "api"): ask("GET", "/api/projects"),
            (401, "stranger"): stranger("GET", "/api/projects"),
            (404, "api"): ask("GET", "/api/nowhere"),
            (404, "file"): ask("GET", "/assets/nowhere.js"),
            (405, "api"): ask("PUT", "/api/projects"),
            (405, "page"): ask("POST", "/setups/1"),
            (400, "json"): ask("PATCH", "/api/setups/1", b"{"),
            (413, "size"): stranger("POST", "/api/session", b" " * 9000),
        }
    for (status, name), answer in answers.items():
        assert answer.status == status, (name, answer.status, answer.content)
        assert "frame-ancestors 'none'" in answer.headers["Content-Security-Policy"], name
        assert answer.headers["X-Content-Type-Options"] == "nosniff", name
        assert answer.headers["X-Frame-Options"] == "DENY", name
        assert answer.headers["Referrer-Policy"] == "same-origin", name
        assert "camera=()" in answer.headers["Permissions-Policy"], name
        assert "Server" not in answer.headers, name
        if status >= 400:
            assert answer.headers["Content-Type"] == PROBLEM, name
            problem = json.loads(answer.content)
            assert (problem["status"], bool(problem["title"])) == (status, True), name
    assert set(answers[405, "api"].headers["Allow"].split(", ")) == {"GET", "POST"}


def test_a_large_body_is_cut_off_while_it_is_read(address):
    host, port = address.split(":")
    head = "POST /api/session HTTP/1.1\r\nHost: {}\r\nContent-Type: application/json\r\n{}\r\n\r\n"
    with socket.create_connection((host, int(port)), 5) as link:  # 300 MB, said beforehand
        link.sendall(head.format(address, "Content-Length: 300000000").encode())
        assert link.recv(1000).startswith(b"HTTP/1.1 413")
    with socket.create_connection((host, int(port)), 5) as link:  # and not said
        link.sendall(head.format(address, "Transfer-Encoding: chunked").encode())
        assert taken_until_cut_off(link, 50_000_000) < 10_000_000
    with visitor(address, "engineer") as (ask, _):
        assert ask("PATCH", "/api/setups/1", b" " * 200_000).status == 400
        assert ask("PATCH", "/api/setups/1", b" " * 262_145).status == 413
    with visitor(address) as (ask, _):
        for claim in ("sessionid=made-up", "sessionid=%00", "sessionid=" + "x" * 3000, ""):
            assert ask("PATCH", "/api/setups/1", b" " * 200_000, Cookie=claim).status == 413
            assert ask("PATCH", "/api/setups/1", b" " * 8_000, Cookie=claim).status in (401, 403)


def test_a_setup_comes_back_at_any_size_that_an_export_may_have(address, setup):
    path = f"/api/projects/{setup.project_id}/setups/import"
    with visitor(address, "engineer") as (ask, cookies):
        assert ask("POST", path, b" " * 3_000_000).status == 400  # it was read: it is no JSON
    host, port = address.split(":")
    for size, claim in ((5_000_000, cookies), (3_000_000, "sessionid=made-up"), (3_000_000, "")):
        head = f"POST {path} HTTP/1.1\r\nHost: {address}\r\nCookie: {claim}\r\n"
        with socket.create_connection((host, int(port)), 8) as link:
            link.sendall(f"{head}Content-Length: {size}\r\n\r\n".encode())
            assert link.recv(1000).startswith(b"HTTP/1.1 413")


def taken_until_cut_off(link, most):
    sent = 0
    with suppress(OSError):
        while sent < most:
            link.sendall(b"1000\r\n" + b"x" * 0x1000 + b"\r\n")
            sent += 0x1000
    return sent


@pytest.mark.parametrize(
    ("begun", "answered"),
    [
        (b"GET / HTTP/1.1\r\nHo", b""),
        (b"", b""),
        (b"POST /api/session HTTP/1.1\r\nHost: x\r\nContent-Length: 100\r\n\r\n{", b"HTTP/1.1 408"),
    ],
    ids=["head", "nothing", "body"],
)
def test_who_does_not_finish_is_hung_up_on(address, begun, answered):
    host, port = address.split(":")
    with socket.create_connection((host, int(port)), 8) as link:
        if begun:
            link.sendall(begun)
        assert link.recv(1000).startswith(answered)
        wait_for(lambda: link.recv(1000) == b"", "the end")


def test_who_is_slow_holds_up_nobody(database, setup):
    """Bodies that do not end, of more people than have a turn at once."""
    with processes.web(database, YOKE_BODY_SECONDS="20") as found:
        slow_bodies_hold_up_nobody(urlsplit(found).netloc)


def slow_bodies_hold_up_nobody(address):
    host, port = address.split(":")
    with ExitStack() as stack, visitor(address, "reviewer") as (ask, cookies):
        for i in range(8):
            link = stack.enter_context(socket.create_connection((host, int(port)), 8))
            claim = cookies if i % 2 else f"sessionid=claim{i}"
            head = f"GET /api/projects HTTP/1.1\r\nHost: {address}\r\nCookie: {claim}\r\n"
            link.sendall(f"{head}Content-Length: 100\r\n\r\n{{".encode())
        began = time.monotonic()
        for _ in range(5):
            assert ask("GET", "/api/projects").status == 200
        assert time.monotonic() - began < 10  # those have twenty seconds each


def test_who_does_not_take_an_answer_keeps_no_connection(address, setup):
    """More of them, one after the other, than there are connections in the pool."""
    run = record(setup, [block(i, counts(40_000), rate=400_000.0) for i in range(10)])
    stream = run.streams.get()
    path = f"/api/runs/{run.pk}/streams/{stream.pk}/files/csv"
    host, port = address.split(":")
    with ExitStack() as stack, visitor(address, "engineer") as (ask, cookies):
        begun = []
        for _ in range(14):
            link = stack.enter_context(socket.socket())
            link.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
            link.connect((host, int(port)))
            head = f"GET {path} HTTP/1.1\r\nHost: {address}\r\nCookie: {cookies}\r\n\r\n"
            link.sendall(head.encode())
            begun.append(link)
        for link in begun:  # each has its turn once the one before it was given up
            link.settimeout(60)
            assert link.recv(12) == b"HTTP/1.1 200"
        with ThreadPoolExecutor(12) as pool:
            answers = pool.map(lambda _: one_read(address, cookies), range(24))
            assert set(answers) == {200}
        assert ask("POST", f"/api/benches/{setup.bench_id}/emergency-stop").status in (204, 503)


def one_read(address, cookies):
    with visitor(address) as (ask, _):
        return ask("GET", "/api/projects", Cookie=cookies).status


def counts(samples):
    return np.random.default_rng(1).integers(-9999, 9999, (samples, 8), dtype=np.int32)


def test_a_stop_has_a_connection_of_its_own(database, setup):
    """All others are held by reads that wait for a lock."""
    with (
        processes.web(database, YOKE_ORDER_SECONDS="2") as found,
        psycopg.connect(processes.environment(database)["DATABASE_URL"]) as lock,
    ):
        address = urlsplit(found).netloc
        with visitor(address, "engineer") as (ask, cookies):
            assert ask("GET", "/api/projects").status == 200
            lock.execute("LOCK TABLE setups_project IN ACCESS EXCLUSIVE MODE")
            with ThreadPoolExecutor(30) as pool:
                waiting = [pool.submit(write, address, cookies) for _ in range(30)]
                time.sleep(1.5)
                began = time.monotonic()
                stopped = ask("POST", f"/api/benches/{setup.bench_id}/emergency-stop")
                took = time.monotonic() - began
                lock.rollback()
                assert {w.result() for w in waiting} <= {201, 409, 503}
    assert stopped.status == 503  # no recorder confirms it here; it was told all the same
    assert took < 6
    assert StopRequest.objects.filter(emergency=True).exists()


def write(address, cookies):
    with visitor(address) as (ask, _):
        body = json.dumps(
            {"name": f"P {time.monotonic()}", "customer": "", "article": "", "standard": ""}
        )
        return ask("POST", "/api/projects", body, Cookie=cookies).status


@pytest.mark.parametrize(
    "kind",
    [
        "multipart/form-data",
        "multipart/form-data; boundary=\x01",
        "multipart/form-data; boundary=é",
        "multipart/form-data; boundary=" + "x" * 300,
        "text/\x80; charset=none",
    ],
)
def test_a_body_of_a_broken_kind_is_a_problem(address, kind):
    with visitor(address, "engineer") as (ask, _):
        for path in ("/api/session", "/api/projects"):
            answer = ask("POST", path, b"--x\r\nbroken", **{"Content-Type": kind.encode("latin-1")})
            assert answer.status in (400, 415, 422)
            assert answer.getheader("Content-Type") == PROBLEM


def live(address, path, cookies, origin=None):
    headers = {"Cookie": cookies} if cookies else {}
    return connect(
        f"ws://{address}{path}",
        origin=origin or f"http://{address}",
        additional_headers=headers,
        open_timeout=60,
    )


@pytest.mark.parametrize(
    ("path", "origin", "status"),
    [
        ("/live/1", "http://127.0.0.1:1", 403),  # another port is another page
        ("/live/1", "http://elsewhere.example", 403),
        ("/live/1", "null", 403),
        ("/live/1", "http://127.0.0.1:none", 403),
        ("/elsewhere/1", None, 404),
        ("/live/0", None, 404),
        ("/live/99999999999999999999999", None, 404),
        ("/live/-1", None, 404),
        ("/live/1%0A", None, 404),
    ],
)
def test_a_websocket_is_for_our_pages_and_for_what_there_is(address, path, origin, status):
    with visitor(address, "reviewer") as (_, cookies):
        with pytest.raises(websockets.InvalidStatus) as caught:
            live(address, path, cookies, origin)
        assert caught.value.response.status_code == status


def closed_with(screen):
    try:
        while True:
            screen.recv(timeout=10)
    except websockets.ConnectionClosed as closed:
        return closed.rcvd.code


def test_strangers_and_unknown_benches_are_closed(address, setup):
    assert closed_with(live(address, f"/live/{setup.bench_id}", "")) == 4401
    with visitor(address, "reviewer") as (_, cookies):
        assert closed_with(live(address, f"/live/{setup.bench_id + 99}", cookies)) == 4404
        screen = live(address, f"/live/{setup.bench_id}", cookies)
        screen.send("[" * 60_000)
        assert closed_with(screen) == 4400


def test_signing_out_closes_screens_and_lets_go_of_the_yoke(address, setup):
    path = f"/live/{setup.bench_id}"
    with visitor(address, "engineer") as (ask, mine), visitor(address, "engineer") as (_, other):
        assert ask("POST", f"/api/benches/{setup.bench_id}/yoke").status == 200
        screen, stays = live(address, path, mine), live(address, path, other)
        wait_for(lambda: Bench.objects.get().yoke_holder, "the yoke")
        assert ask("DELETE", "/api/session").status == 204
        assert closed_with(screen) == 4401
        assert Bench.objects.get().yoke_holder is None
        stays.ping().wait(5)  # the same person's other browser


def test_losing_a_right_closes_screens_and_lets_go_of_the_yoke(address, setup):
    with visitor(address, "technician") as (ask, cookies):
        person = User.objects.get(username="technician")
        assert ask("POST", f"/api/benches/{setup.bench_id}/yoke").status == 200
        screen = live(address, f"/live/{setup.bench_id}", cookies)
        people.change_role(Actor(User.objects.get(username="engineer")), person.pk, "reviewer")
        assert closed_with(screen) == 4401
        assert Bench.objects.get().yoke_holder is None


def test_waiting_for_a_recorder_that_is_frozen_holds_up_nobody(address, setup):
    """More orders wait than there are connections in the pool."""
    body = json.dumps({"channels": [setup.channels.first().pk]})
    with visitor(address, "engineer") as (ask, mine):
        ask("POST", f"/api/benches/{setup.bench_id}/yoke")

        def zero():
            with visitor(address) as (other, _):
                return other("POST", f"/api/setups/{setup.pk}/zero", body, Cookie=mine).status

        with ThreadPoolExecutor(20) as pool:
            waiting = [pool.submit(zero) for _ in range(20)]
            wait_for(lambda: Order.objects.count() == 20, "the orders")
            began = time.monotonic()
            for _ in range(10):
                assert ask("GET", "/api/projects").status == 200
            assert time.monotonic() - began < 5  # a frozen recorder is waited for 12 s
            answer = {"title": "Given up by the test.", "hint": ""}
            Order.objects.update(state=OrderState.REFUSED, answer=answer)
            assert {w.result() for w in waiting} == {409}


def test_nothing_between_holds_a_thread_while_an_order_waits(settings):
    for name in settings.MIDDLEWARE:
        assert import_string(name).async_capable, name


def test_concurrent_requests_are_limited_and_too_many_refused():
    async def scenario():
        limiter, now, most = ConcurrencyLimiter(per_person=2, in_all=3), 0, {"all": 0, "mine": 0}
        here = {"me": 0, "you": 0, "he": 0}

        async def ask(who):
            nonlocal now
            async with limiter.slot(who):
                now += 1
                here[who] += 1
                most["all"] = max(most["all"], now)
                most["mine"] = max(most["mine"], here["me"])
                await asyncio.sleep(0.001)
                now -= 1
                here[who] -= 1

        await asyncio.gather(*(ask(who) for who in here for _ in range(50)))
        assert most == {"all": 3, "mine": 2}
        crowd = [asyncio.create_task(ask("me")) for _ in range(MAX_OPEN)]
        await asyncio.sleep(0)
        with pytest.raises(Refused) as caught:
            await ask("me")
        assert caught.value.problem.status == 429
        await ask("you")  # others are not kept out
        await asyncio.gather(*crowd)
        assert not limiter._people  # nobody is remembered

    asyncio.run(scenario())


def test_who_wants_to_stop_waits_for_nobody():
    """Somebody who was seen signed in; others wait for each other, and for nobody else."""
    known.saw("mine", 1)

    async def scenario():
        guard = RequestGuard(None)

        def slot(method, path, session):
            return guard._slot({"method": method, "path": path, "client": ("::1", 1)}, session)

        async def is_free(*asked):
            with suppress(TimeoutError):
                async with asyncio.timeout(0.05), slot(*asked):
                    return True
            return False

        stops = ("/api/emergency-stop", "/api/benches/7/emergency-stop", "/api/runs/3/stop")
        async with AsyncExitStack() as stack:
            for path in ("/api/projects", stops[0]):
                for claim in (b"made up", b"also"):
                    await stack.enter_async_context(slot("POST", path, claim))
            assert not await is_free("GET", "/api/projects", b"another")
            for path in stops:
                assert not await is_free("POST", path, b"another")
                assert await is_free("POST", path, b"mine")
            assert await is_free("GET", "/setups/1", b"another")
            assert await is_free("GET", "/api/projects", b"mine")
        async with slot("POST", "/api/session", b""):  # one password at a time is looked at
            assert not await is_free("POST", "/api/session", b"another claim")

    asyncio.run(scenario())


def test_a_slot_is_released_when_the_answer_begins():
    """Who takes an answer slowly, or not at all, holds up neither others nor themselves."""
    known.saw("slow", 7)
    begun = []

    async def application(scope, receive, send):
        begun.append(scope["path"])
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b"x"})

    async def scenario():
        guard, held = RequestGuard(application), asyncio.Event()

        async def receive():
            return {"type": "http.request", "body": b""}

        async def send(message):
            if message["type"] == "http.response.body":
                await held.wait()

        scope = {
            "method": "GET",
            "path": "/api/projects",
            "client": ("::1", 1),
            "headers": [(b"cookie", b"sessionid=slow")],
        }
        tasks = [asyncio.create_task(guard(scope, receive, send)) for _ in range(24)]
        for _ in range(100):
            await asyncio.sleep(0.001)
        assert len(begun) == 24
        held.set()
        await asyncio.gather(*tasks)

    asyncio.run(scenario())


def test_sessions_of_one_person_are_known_as_theirs(database, setup):
    person, found = User.objects.get(username="engineer"), []
    for _ in range(2):
        client = Client()
        client.force_login(person)
        assert client.get("/api/projects").status_code == 200
        found.append(client.cookies["sessionid"].value.encode())
    assert found[0] != found[1]
    assert [known.person_of(session) for session in found] == [person.pk] * 2
    assert known.person_of(b"made up") is None


def test_silent_connections_keep_nobody_out(database, setup):
    """More of them than may be quiet at once; nobody of them is waited for."""
    with ExitStack() as stack:
        found = stack.enter_context(processes.web(database, YOKE_HEAD_SECONDS="60"))
        address = urlsplit(found).netloc
        host, port = address.split(":")
        ask, cookies = stack.enter_context(visitor(address, "reviewer"))
        silent = []
        for i in range(MAX_QUIET + 100):
            link = stack.enter_context(socket.create_connection((host, int(port)), 10))
            if i % 2:
                link.sendall(b"POST /api/emergency-stop HTTP/1.1\r\nHo")
            silent.append(link)
        assert one_read(address, cookies) == 200
        assert ask("GET", "/api/projects").status == 200
        silent[0].settimeout(10)
        with suppress(ConnectionResetError):
            assert silent[0].recv(10) == b""  # the one that was silent for longest was closed
        silent[-1].settimeout(0.2)
        with pytest.raises(TimeoutError):
            silent[-1].recv(10)


def test_a_session_that_ends_without_a_word_goes_dark(address, setup):
    with visitor(address, "reviewer") as (_, cookies):
        screen = live(address, f"/live/{setup.bench_id}", cookies)
        Session.objects.all().delete()
        assert closed_with(screen) == 4401
