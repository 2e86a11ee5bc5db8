"""Computed channels in the real interface: a formula is mended, and read live."""

import re

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_formula_with_a_wrong_unit_is_mended_by_the_proposal(setup, application, open_browser):
    page = open_browser("engineer")
    page.goto(f"{application}/setups/{setup.pk}/calibrate")
    page.get_by_label("Name of a new computed channel").fill("margin")
    formula = page.get_by_label("Formula of a new computed channel", exact=True)
    formula.fill("F + 3")
    expect(page.get_by_role("alert")).to_contain_text("3 has no unit, F is in kN")
    formula.press("Tab")
    expect(formula).to_have_value("F + 3 kN")
    expect(page.get_by_text("gives kN")).to_be_visible()
    formula.press("Enter")
    expect(page.get_by_label("Formula of margin")).to_have_value("F + 3 kN")
    panel = page.get_by_role("region", name="Computed channels")
    expect(panel).to_contain_text(re.compile(r"[23]\.\d{3}"))  # live, about what F is off zero

    # Another name of a channel is its name in the formula too.
    force = setup.channels.get(name="F")
    page.request.patch(
        f"{application}/api/channels/{force.pk}",
        data={"name": "F top"},
        headers={"X-CSRFToken": page.evaluate("/csrftoken=([^;]+)/.exec(document.cookie)[1]")},
    )
    expect(page.get_by_label("Formula of margin")).to_have_value("F top + 3 kN")
    page.get_by_role("button", name="Remove").click()
    expect(page.get_by_label("Formula of margin")).to_have_count(0)
