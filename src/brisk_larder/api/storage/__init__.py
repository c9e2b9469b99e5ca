"""Storage over HTTP."""
