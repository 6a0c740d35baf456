"""What a seat's agent may be told to do, and the packages of drivers that orders install."""
