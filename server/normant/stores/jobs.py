"""Jobs that keep how full volumes are."""

from procrastinate.contrib.django import app

from .services.keep_figures import forget_days, keep_figures


@app.periodic(cron="* * * * *")
@app.task(name="stores.figures")
def figures(timestamp: int = 0) -> None:
    """Each minute: of seats that were heard half an hour after their last figures, or for the first time."""
    keep_figures()


@app.periodic(cron="50 3 * * *")
@app.task(name="stores.forget")
def forget(timestamp: int = 0) -> None:
    """Each night: what is older than a year."""
    forget_days()
