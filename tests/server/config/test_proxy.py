"""Behind a real proxy with TLS, by the configuration that docs/nginx.conf gives as a sample.

The proxy is Debian's nginx, unpacked from its package and not installed.
"""

import ssl
import subprocess
from pathlib import Path
from urllib.parse import urlsplit

import pytest
import requests
import websockets
from django.conf import global_settings
from django.contrib.auth.hashers import make_password
from websockets.sync.client import connect
from yoke_server.accounts.models import User

from launch.paths import ROOT
from tests import processes
from tests.processes import answers, free_port, wait_for

NAME = "bench.lab.example"

pytestmark = pytest.mark.django_db(transaction=True)


def run(*command: str, **options: object) -> bool:
    return subprocess.run(command, capture_output=True, **options).returncode == 0  # type: ignore[call-overload]


@pytest.fixture(scope="module")
def nginx(tmp_path_factory) -> Path:
    """The program, fetched by the package's name."""
    folder = tmp_path_factory.mktemp("nginx")
    run("apt-get", "download", "nginx", cwd=folder)
    for package in folder.glob("nginx_*.deb"):
        run("dpkg", "-x", str(package), str(folder))
    program = folder / "usr/sbin/nginx"
    if not program.exists() or not run(str(program), "-v"):
        pytest.skip("Debian's nginx is not to be had here")
    return program


@pytest.fixture
def proxied(database, setup, nginx, tmp_path):
    """(address of the proxy, a session that believes its certificate, the ssl context)"""
    key, certificate = tmp_path / "bench.key", tmp_path / "bench.pem"
    assert run(
        "openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj",
        f"/CN={NAME}", "-addext", f"subjectAltName=DNS:{NAME},DNS:localhost",
        "-keyout", str(key), "-out", str(certificate),
    )  # fmt: skip
    port = free_port()
    more = {
        "YOKE_TLS": "1",
        "YOKE_HOSTS": f"{NAME},localhost",
        "YOKE_PROXIES": "127.0.0.1",
        "YOKE_WRONG_PASSWORDS": "3",
    }
    with processes.web(database, **more) as web:
        sample = (ROOT / "docs/nginx.conf").read_text()
        for told, here in (
            ("listen 443", f"listen 127.0.0.1:{port}"),
            ("/etc/ssl/certs/bench.pem", str(certificate)),
            ("/etc/ssl/private/bench.key", str(key)),
            ("127.0.0.1:8000", urlsplit(web).netloc),
            (f"server_name {NAME}", f"server_name {NAME} localhost"),
        ):
            assert told in sample
            sample = sample.replace(told, here)
        paths = [
            f"{kind}_temp_path {tmp_path}/{kind};"
            for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        ]
        head = f"daemon off; pid {tmp_path}/pid; error_log {tmp_path}/errors;\n"
        inner = "http {\naccess_log off;\nclient_body_buffer_size 8m;\n" + "\n".join(paths)
        (tmp_path / "nginx.conf").write_text(head + sample.replace("http {", inner, 1))
        child = subprocess.Popen([nginx, "-c", tmp_path / "nginx.conf", "-e", tmp_path / "errors"])
        try:
            wait_for(lambda: answers(port) or child.poll() is not None, "the proxy")
            assert child.poll() is None, (tmp_path / "errors").read_text()
            session = requests.Session()
            session.verify, session.trust_env = str(certificate), False
            yield f"localhost:{port}", session, ssl.create_default_context(cafile=certificate)
        finally:
            child.terminate()
            child.wait(timeout=10)


def test_signed_in_over_tls_with_live_readings_and_limits(proxied, setup, settings):
    address, session, context = proxied
    settings.PASSWORD_HASHERS = global_settings.PASSWORD_HASHERS  # as the web process has them
    User.objects.filter(username="engineer").update(password=make_password("demo-engineer"))
    page = session.get(f"https://{address}/")
    assert page.headers["Strict-Transport-Security"].startswith("max-age=")
    token = session.cookies["csrftoken"]
    head = {"X-CSRFToken": token, "Referer": f"https://{address}/"}
    body = {"username": "engineer", "password": "demo-engineer"}
    assert (
        session.post(f"https://{address}/api/session", json=body, headers=head).status_code == 200
    )
    assert all(cookie.secure for cookie in session.cookies)

    cookies = "; ".join(f"{c.name}={c.value}" for c in session.cookies)
    options = {"ssl": context, "additional_headers": {"Cookie": cookies}, "open_timeout": 60}
    url = f"wss://{address}/live/{setup.bench_id}"
    with connect(url, origin=f"https://{address}", **options) as screen:
        assert screen.ping().wait(5)
    with pytest.raises(websockets.InvalidStatus):
        connect(url, origin=f"https://{NAME}", **options)

    head["X-CSRFToken"] = session.cookies["csrftoken"]
    setups = f"https://{address}/api/projects/{setup.project_id}/setups"
    for path, size, answered in (
        ("", 600_000, 413),
        ("/import", 5_000_000, 413),
        ("/import", 600_000, 400),
    ):
        sent = session.post(setups + path, data=b" " * size, headers=head)
        assert sent.status_code == answered, (path, size)


def test_wrong_passwords_are_counted_where_they_come_from(proxied):
    """The proxy adds the true address; what a client claims of itself stands before it."""
    address, session, _ = proxied
    session.get(f"https://{address}/")
    token = session.cookies["csrftoken"]
    found = []
    for i in range(12):
        head = {
            "X-CSRFToken": token,
            "Referer": f"https://{address}/",
            "X-Forwarded-For": f"10.0.0.{i}",
        }
        body = {"username": f"person-{i}", "password": "guess"}
        found.append(session.post(f"https://{address}/api/session", json=body, headers=head))
    assert [a.status_code for a in found] == [401] * 9 + [429] * 3
