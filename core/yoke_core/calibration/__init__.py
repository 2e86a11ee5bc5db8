"""Calibration against known loads: fits, characteristics, classes, uncertainty."""
