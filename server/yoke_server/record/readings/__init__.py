"""What is read of a run: its channels as corrected, its computed channels, stored or by chain."""
