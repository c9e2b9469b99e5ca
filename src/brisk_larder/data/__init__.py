"""Tables, engine, migrations and backup of the household's one file."""
