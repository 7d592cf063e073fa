"""Work that takes time: leases, progress, cancelling."""
