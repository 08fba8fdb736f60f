"""One decision a file. Each takes what is known so far and yields its value with reasons and cautions."""
