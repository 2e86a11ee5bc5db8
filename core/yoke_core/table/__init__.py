"""Tables of numbers as text: how they are written, and whether their times lie evenly."""
