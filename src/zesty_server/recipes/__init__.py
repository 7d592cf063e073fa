"""Saved chains."""
