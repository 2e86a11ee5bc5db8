"""A bench as a text file that people can read, keep and send: YAML 1.2."""
