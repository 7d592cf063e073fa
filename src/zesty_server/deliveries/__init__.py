"""Finished files with their receipts."""
