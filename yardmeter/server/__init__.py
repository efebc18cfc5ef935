"""The server: Django for storage and serving, a typed API in front of the core."""
