"""Papers: parcels, files in and out, history, settings."""
