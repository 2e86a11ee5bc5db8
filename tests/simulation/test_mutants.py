"""The search finds faults that are put into the recorder on purpose."""

import importlib
import inspect

import pytest

from tests.simulation.mutants import MUTANTS, found_before, hunted, seeds_for

TRIES = 20  # courses beside the one that found it last
WANTED = 0.9
FOUND = [m for m in MUTANTS if m.name in found_before()]


@pytest.mark.parametrize("mutant", MUTANTS, ids=[m.name for m in MUTANTS])
def test_each_place_of_a_mutant_is_there_once(mutant):
    for place in mutant.places:
        source = inspect.getsource(importlib.import_module(place.module))
        assert source.count(place.old) == 1
        assert place.new != place.old


@pytest.mark.parametrize("mutant", FOUND, ids=[m.name for m in FOUND])
def test_the_search_finds_a_mutant(mutant):
    assert hunted(mutant, seeds_for(mutant, TRIES)), "no course breaks a rule with this fault"


def test_nine_of_ten_mutants_are_found():
    assert len({m.name for m in MUTANTS}) == len(MUTANTS) >= 40
    assert set(found_before()) <= {m.name for m in MUTANTS}
    assert len(FOUND) >= WANTED * len(MUTANTS)
