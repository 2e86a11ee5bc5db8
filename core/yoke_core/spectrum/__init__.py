"""Amplitudes and power densities over frequency, their peaks and bands."""
