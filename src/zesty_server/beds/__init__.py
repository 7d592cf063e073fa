"""Music beds, and voices over them."""
