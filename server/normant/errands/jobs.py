"""Jobs about errands. A job of the version before may wait under its other name."""

from procrastinate.contrib.django import app

from .services.run_errands import prove


@app.periodic(cron="* * * * *")
@app.task(name="errands.prove", aliases=["rollouts.prove_errands"], lock="prove errands")
def prove_errands(timestamp: int = 0) -> None:
    """Each minute: errands whose proof came the short way."""
    prove()
