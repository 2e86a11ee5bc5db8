"""What a stretch of a signal comes to: extremes, mean, deviation, area, slope."""
