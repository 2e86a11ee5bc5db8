"""Which specimens a setup's kept runs were of."""

from django.db import connection
from django.test.utils import CaptureQueriesContext
from yoke_server.record.models import Correction
from yoke_server.record.preflight import pulled_specimens
from yoke_server.setups.services import change_setup

from tests import recorded


def test_a_specimen_is_known_by_its_revision_its_file_and_what_was_put_right(setup, engineer):
    recorded.record(setup, [recorded.block(0)], number=1)
    change_setup(engineer, setup.pk, specimen="C7")
    setup.refresh_from_db()
    run = recorded.record(setup, [recorded.block(0)], number=2)
    imported = recorded.record(setup, [recorded.block(0)], number=3)
    imported.document = {**imported.revision.document, "specimen": {"specimen": "X1"}}
    imported.save()
    recorded.begin(setup, 4)  # still open: it is not pulled yet
    assert pulled_specimens(setup) == {"C1", "C7", "X1"}
    for name in ("C70", "C8"):
        Correction.objects.create(run=run, changes={"specimen": name})
    Correction.objects.create(run=run, changes={"piece": {"kind": "part"}})
    assert pulled_specimens(setup) == {"C1", "C8", "X1"}


def test_a_document_of_the_first_version_names_none(setup):
    run = recorded.record(setup, [recorded.block(0)])
    run.revision.document = {"schema_version": 1, "channels": []}
    run.revision.save()
    assert pulled_specimens(setup) == {""}


def test_no_document_is_read_for_it_however_many_runs_there_are(setup):
    recorded.record(setup, [recorded.block(0)], number=1)
    with CaptureQueriesContext(connection) as one:
        pulled_specimens(setup)
    for number in range(2, 6):
        recorded.record(setup, [recorded.block(0)], number=number)
    with CaptureQueriesContext(connection) as five:
        pulled_specimens(setup)
    assert len(five) == len(one)
    assert not [q for q in five.captured_queries if 'revision"."document' in q["sql"]]
