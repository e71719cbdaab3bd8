"""High Shelf: PHP applications installed on shared hosting accounts, as one durable, visible, repeatable job."""

__version__ = "0.1.0"
