"""Models that the service and its clients share."""
