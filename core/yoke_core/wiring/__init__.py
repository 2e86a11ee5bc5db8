"""How a sensor is connected, and which wire is wrong by what an amplifier measures of it."""
