"""Signal processing building blocks shared by steps and measures."""
