"""What is written to the database and read back to go on with a run."""
