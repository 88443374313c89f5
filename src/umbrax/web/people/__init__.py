"""Who asks, what they may do, and how they come in: nothing of the API is answered before these have been asked."""
