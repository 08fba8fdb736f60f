"""What this shop learns from its runs."""
