"""Levels of an envelope: how many there are, and how much coarser each is than the one below."""

FACTOR = 16  # so many samples the core folds at once
LEVELS = 5  # the coarsest pair spans 16^5, about a million samples
