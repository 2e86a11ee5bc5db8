"""The computation of Yoke Bench: arrays in, frozen dataclasses out, SI units inside."""
