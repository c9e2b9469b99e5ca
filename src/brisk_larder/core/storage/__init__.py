"""Where seed lies: isotherms, walls, air between readings, places, what a keeper is warned of there."""
