"""Uncertainty of measurement: budgets by the GUM, checked against Monte Carlo."""
