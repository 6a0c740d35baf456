"""Jobs of the ledger."""

from procrastinate.contrib.django import app

from .services.sign_head import sign_head


@app.periodic(cron="* * * * *")
@app.task(name="ledger.sign_head", lock="sign head")
def sign_ledger_head(timestamp: int = 0) -> None:
    """Each minute: sign the end of the ledger, where it moved."""
    sign_head()
