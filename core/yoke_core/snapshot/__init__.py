"""A short snapshot of each channel before a test: what is wrong with its signal at rest."""
