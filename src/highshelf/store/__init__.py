"""What lasts: tables, journal, shelf, strongbox."""
