"""What must not give way: real processes, conquered houses and generated expressions, against a bar of none."""
