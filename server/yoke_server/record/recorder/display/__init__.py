"""What goes out to the screens: live frames and the bench's state."""
