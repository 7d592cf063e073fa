"""Room tones: samples of "nobody is speaking"."""
