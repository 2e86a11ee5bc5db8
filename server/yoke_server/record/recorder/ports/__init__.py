"""Threads that talk to devices and actuators."""
