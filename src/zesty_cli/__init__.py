"""The command line: thin over the core and the server."""
