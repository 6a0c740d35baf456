"""Orders at work: what makes one the house's, and how each kind is carried out, whatever breaks meanwhile."""
