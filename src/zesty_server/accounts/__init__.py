"""Accounts of a small studio: who signs in, and whose rows are whose.

Off unless ``ZESTY_ACCOUNTS`` is set: one person on this machine sees everything.
"""
