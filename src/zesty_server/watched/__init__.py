"""Folders of this machine whose new files are processed and delivered automatically."""
