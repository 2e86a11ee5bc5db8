"""Files of numbers from elsewhere, read in as runs: sent in parts, looked at, then made a run."""
