"""The job that lets standing care have its turns."""

from procrastinate.contrib.django import app

from .services.take_turns import begin_turns, decide_turns


@app.periodic(cron="* * * * *")
@app.task(name="standing_care.take_turns")
def take_turns(timestamp: int = 0) -> None:
    """Each minute: begin what is due, and decide what the seats have answered."""
    begin_turns()
    decide_turns()
