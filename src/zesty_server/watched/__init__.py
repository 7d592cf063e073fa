"""Folders of this machine in which what comes in is measured, run and delivered."""
