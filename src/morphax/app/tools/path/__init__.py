"""Tools for paths, hosts and guides."""
