"""What is known of one seat: its survey, its facts, its stores, its place in the register, its picture, its peers."""
