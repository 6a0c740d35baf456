"""Looking through the stores of a machine: every file once, nothing followed, nothing touched."""
