"""The revisions of a setup: what each changed, in words; an earlier one brought back; as a file."""
