"""What a lens does to a picture: how far it spreads what is not in focus, in what shape, and what lies behind what it spreads."""
