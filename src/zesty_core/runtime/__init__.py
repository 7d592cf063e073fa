"""How work meets the machine: cores, threads, memory, denormal numbers."""
