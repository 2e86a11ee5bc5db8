"""Forces that an actuator is to play: read from a file, or drawn from a spectrum."""
