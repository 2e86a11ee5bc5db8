"""Numbers as text against what Python writes."""

from decimal import ROUND_HALF_UP, Decimal

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.table.text import table_text


def written(values, decimals, **signs):
    table = np.atleast_2d(np.asarray(values, float))
    return table_text(table, np.asarray(decimals, np.int64), **signs).decode()


def test_rows_columns_and_signs():
    text = written([[1.5, -0.25, 0], [1e6, -0.04, 7.0]], [3, 1, 0])
    assert text == "1.500,-0.3,0\n1000000.000,0.0,7\n"
    assert written([[1.5, -2.25]], [1, 2], point=",", separator=";") == "1,5;-2,25\n"


def test_what_has_no_value_is_an_empty_field():
    assert written([[np.nan, np.inf, 1, -np.inf, 1e18]], [1] * 5) == ",,1.0,,\n"


@given(st.floats(-1e9, 1e9), st.integers(0, 8))
def test_any_number_as_decimal_arithmetic_writes_it(value, places):
    found = Decimal(written([[value]], [places]).strip())
    exact = Decimal(value).quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)
    # A product of floats may fall on the other side of a half: one in the last place at most.
    step = Decimal(1).scaleb(-places) if places else Decimal(1)
    assert abs(found - exact) <= step * max(1, round(abs(value) * 10**places * 2**-52))
    assert -found.as_tuple().exponent == places
