"""The sensor library: instruments and lots of gauges, their certificates and their cores."""
