"""What an archive holds: contents, wrapper, needs, findings."""
