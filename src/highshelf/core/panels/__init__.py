"""Control panels that nobody described: their pages read by what they mean."""
