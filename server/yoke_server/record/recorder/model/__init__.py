"""What all rooms speak of: events, phases, clocks."""
