"""Stand-in hardware: a bridge amplifier and a load frame behind TCP, with the physics between.

Solves its resistor networks and its specimen by its own means and imports nothing of the
application, so that a wrong formula there shows as a wrong result.
"""
