"""The command line: thin over the core and the server."""

import os

# Chunks of a sound are worked on side by side; each multiplying by several threads as well is slower.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
