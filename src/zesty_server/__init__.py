"""The server: recordings, rooms, recipes, runs, batches over HTTP."""
