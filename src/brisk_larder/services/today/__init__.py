"""Today: made of what all other rooms say."""
