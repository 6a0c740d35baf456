from unittest import TestCase, mock

from normant_agent.trouble import AGAIN_SECONDS, Trouble


class Away(TestCase):
    """A server that cannot be reached for a day, tried as an agent does."""

    def test_it_is_said_once_and_then_once_an_hour(self) -> None:
        trouble, now, tries = Trouble("look", "pan-03"), 0.0, 0
        with (
            self.assertLogs("normant_agent", "INFO") as logged,
            mock.patch("normant_agent.trouble.time.monotonic", lambda: now),
        ):
            while now < 24 * AGAIN_SECONDS:
                trouble.failed("nobody answers")
                now += trouble.pause(5, 60)
                tries += 1
            trouble.over()
            trouble.over()
        events = [record.getMessage() for record in logged.records]
        self.assertEqual(events[0], "not done")
        self.assertEqual(events[-2:], ["still not done", "done again"])
        self.assertLess(len(events), 26)
        self.assertLess(tries, 24 * 3600 / 25)

    def test_seats_do_not_come_back_at_one_instant(self) -> None:
        trouble = Trouble("look", "pan-03")
        for _ in range(8):
            trouble.failed("nobody answers")
        pauses = {trouble.pause(5, 60) for _ in range(50)}
        self.assertEqual((len(pauses), max(pauses) <= 60, min(pauses) >= 30), (50, True, True))
