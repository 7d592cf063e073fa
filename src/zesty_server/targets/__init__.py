"""What deliveries must meet."""
