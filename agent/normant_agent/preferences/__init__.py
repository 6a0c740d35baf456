"""The preference files of a seat: which are touched at all, what a visit reads, and a dialect on trial."""
