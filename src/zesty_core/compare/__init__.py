"""Before and after, fairly: what a listener's picks are worth."""
