"""The path of samples: block order, timeline, ring, stop conditions, writer."""
