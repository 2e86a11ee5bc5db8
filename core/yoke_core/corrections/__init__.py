"""Corrections of a channel: by what is known of its gauge, and of its stored samples."""
