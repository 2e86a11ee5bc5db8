"""Reading in one state of the database."""

import pytest
from yoke_server.common.db.snapshot import read_snapshot
from yoke_server.setups.freezing import newest
from yoke_server.setups.models import Balance


@pytest.mark.django_db
def test_what_is_asked_for_twice_in_a_state_is_read_once_and_anew_in_the_next(
    setup, django_assert_num_queries
):
    key = setup.channels.first().key
    with read_snapshot():
        assert newest(Balance, setup.pk) == {}
        with django_assert_num_queries(0):
            assert newest(Balance, setup.pk) == {}
    Balance.objects.create(setup=setup, channel_key=key, zero=1e-4)
    assert newest(Balance, setup.pk)[key].zero == 1e-4
    with read_snapshot():
        assert newest(Balance, setup.pk)[key].zero == 1e-4
