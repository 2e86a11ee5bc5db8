"""The wiring check: what the recorder measured, judged, put into words, and kept."""
