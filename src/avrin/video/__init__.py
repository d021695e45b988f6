"""Video: films of the game, and numbered pictures, decoded at given times."""
