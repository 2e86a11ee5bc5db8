"""Wheatstone bridges: circuits, scaling of their output, shunt check.

Arms are numbered clockwise from the upper left: 1, 2, 3, 4. Excitation + is the upper
corner, signal + the right one, so a rising resistance in arm 1 or 3 gives a positive output
and tension on a quarter bridge reads positive. Outputs are ratios U/E in V/V.
"""
