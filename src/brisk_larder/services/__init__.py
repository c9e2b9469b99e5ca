"""One module per room: reads and writes the file, calls the core, returns plain results."""
