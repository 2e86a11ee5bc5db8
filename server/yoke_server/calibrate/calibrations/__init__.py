"""Calibrations against known loads: plan, captures, evaluation, certificate."""
