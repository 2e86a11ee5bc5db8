"""What of a signal is kept while it is recorded: fewer samples, bursts, turning points, changes."""
