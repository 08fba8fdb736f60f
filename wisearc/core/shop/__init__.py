"""What a shop owns, as declared lists, and the bench a plan is made on."""
