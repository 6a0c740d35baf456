"""Timelines of OpenTimelineIO, read into what core counts: the one place of ours that knows that library."""
