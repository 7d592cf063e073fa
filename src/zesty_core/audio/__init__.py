"""The only place that touches audio files."""
