"""What is computed of samples block by block: summaries, envelopes, live figures."""
