"""Archives: reading what they hold, and making a zip of any of them."""
