"""The steps at the arc and the acts through them."""
