"""The HTTP API: routers of the stages under /api, problem details for errors."""

from ninja import NinjaAPI
from ninja.security import django_auth

from yoke_server.accounts.api import router as accounts
from yoke_server.bench.api import router as bench
from yoke_server.calibrate.api import router as calibrate
from yoke_server.common import problems
from yoke_server.derive.api import router as derive
from yoke_server.record.api import router as record
from yoke_server.report.api import router as report
from yoke_server.wire.api import router as wire

api = NinjaAPI(title="Yoke Bench", version="1", auth=django_auth, docs_url=None)
problems.install(api)
for router in (accounts, bench, wire, calibrate, record, derive, report):
    api.add_router("", router)
