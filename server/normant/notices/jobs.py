"""Jobs that tell people."""

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from .services.deliver import MOST_TRIES, NotDelivered, deliver, send_code
from .services.tell import send_digests, tell_musts

# After 4, 16, 64 seconds and so on: the last try is about six hours after the first.
_AGAIN = RetryStrategy(max_attempts=MOST_TRIES, exponential_wait=4, retry_exceptions={NotDelivered})


@app.task(name="notices.deliver", retry=_AGAIN)
def deliver_one(delivery: int) -> None:
    """Send one notice by one way."""
    deliver(delivery)


@app.task(name="notices.confirm", retry=_AGAIN)
def confirm_address(address: str, code: str) -> None:
    """Send the code that confirms an address."""
    send_code(address, code)


@app.task(name="notices.tell_musts", lock="tell musts")
def tell_at_once() -> None:
    """New findings of severity must."""
    tell_musts()


@app.periodic(cron="* * * * *")
@app.task(name="notices.each_minute", lock="tell musts")
def each_minute(timestamp: int = 0) -> None:
    """Digests whose hour has come; and findings whose job was lost."""
    tell_musts()
    send_digests()
