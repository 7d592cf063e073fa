"""Steps: one module each. A step is a frozen description; its running state is made per file."""
