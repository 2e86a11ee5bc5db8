"""From raw signals to readings: chains of steps, and many of them in one pass."""
