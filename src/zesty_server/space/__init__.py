"""What lies on the disk, and what of it can go."""
