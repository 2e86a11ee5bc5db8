"""From electrical signals to quantities: straight lines, tables, loops, thermometers.

Every step is a frozen object with `apply` (any shape, SI in and out; infinite where a sample
clipped, NaN where there is no number) and `direction`: 1 where more signal is more quantity,
-1 where it is less, 0 where it is neither throughout.
"""
