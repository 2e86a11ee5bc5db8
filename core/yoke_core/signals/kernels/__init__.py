"""What nodes run over samples, compiled. Loaded where a node is at work, and nowhere else."""
