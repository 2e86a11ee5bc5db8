"""Run the web process: `python -m yoke_server.config.serve --port N`. One place for its limits."""

import argparse
import os
import resource
import sys

import uvicorn

IDLE = 30  # s that a connection may stay open between requests
CONNECTIONS = 4000  # quiet ones are closed long before (connections.py)
SWITCH = 0.0005  # s that a thread may compute while others wait: an order must not wait for reads
FRAME_BYTES = 65_536  # of what a screen says; it only subscribes


def main() -> None:
    options = argparse.ArgumentParser(prog="serve")
    options.add_argument("--port", type=int, required=True, help="0: any; it is printed")
    port = options.parse_args().port
    sys.setswitchinterval(SWITCH)
    allow_many_connections()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "yoke_server.config.settings")
    uvicorn.run(
        "yoke_server.config.asgi:application",
        host="127.0.0.1",
        port=port,
        http="yoke_server.config.connections:Connection",
        ws_max_size=FRAME_BYTES,
        timeout_keep_alive=IDLE,
        timeout_graceful_shutdown=3,
        limit_concurrency=CONNECTIONS,
        proxy_headers=False,  # whom to believe is ours to say (accounts/address.py)
        server_header=False,
        access_log=False,
        log_level=os.environ.get("YOKE_WEB_LOG", "warning"),
    )


def allow_many_connections() -> None:
    """Each is an open file; by default a process may have 1024 of them."""
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))


if __name__ == "__main__":
    main()
