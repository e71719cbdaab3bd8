"""The letter a host sends when an account is opened: what it says, and where."""
