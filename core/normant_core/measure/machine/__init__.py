"""What a machine can do, told without a trial: its memory, its routes, a timeline on it, whether it delivers whole."""
