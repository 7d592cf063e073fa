"""How the application behaves where nothing else is said."""
