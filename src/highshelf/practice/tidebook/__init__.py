"""Tidebook, the demo application: a ferry museum's visitor diary in PHP 8, and how its release archive is built."""
