"""Which way a channel counts: what is positive, tested at the part."""
