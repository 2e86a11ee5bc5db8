"""The recorder's sessions on PostgreSQL: Django's connection of the thread that uses them."""
