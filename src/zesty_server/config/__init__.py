"""Settings, addresses, errors and files shared by all apps."""
