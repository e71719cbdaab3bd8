"""Configuration and commands of each private server."""
