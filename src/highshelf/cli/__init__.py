"""The command line: every command is a client call or two."""
