"""Papers over HTTP."""
