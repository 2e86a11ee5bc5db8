"""The recorder process: from amplifier blocks to stored runs and live frames."""
