"""What people ask of a bench: orders and stops, on connections of their own."""
