"""Documents that pages ask for, made by one worker process."""
