"""Drivers: the only rooms that open sockets and files."""
