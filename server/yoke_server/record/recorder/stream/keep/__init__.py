"""Keep rules while a run records: streams beside each other, resumed together."""
