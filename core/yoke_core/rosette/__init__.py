"""Rosettes of three strain gauges: principal strains and stresses.

Angles run counter-clockwise from grid a, in rad; tension is positive; plane stress, isotropic.
"""
