"""What a bench does: its phases, the run, zeros, checks, what moves, its devices."""
