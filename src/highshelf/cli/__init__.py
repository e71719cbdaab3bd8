"""The command line: every command is a client call or two."""

import os

# No plug-in of pydantic's is used here, and looking for some reads the metadata of every installed package: a tenth of what a command takes.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "1")
