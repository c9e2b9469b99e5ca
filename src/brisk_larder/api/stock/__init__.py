"""Stock over HTTP."""
