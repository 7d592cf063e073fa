"""Results of runs laid over music beds."""
