import datetime as dt

from django.test import SimpleTestCase, override_settings

from normant.common.local_time import full_words, local_words

NOW = dt.datetime(2026, 3, 10, 12, tzinfo=dt.UTC)


@override_settings(TIME_ZONE="Pacific/Auckland")
class LocalWords(SimpleTestCase):
    def test_names_the_day_unless_it_is_today_in_the_facility(self) -> None:
        after = [local_words(NOW + dt.timedelta(hours=hours), NOW) for hours in (0, 22, 23, 24 * 6, 24 * 7 - 1)]
        self.assertEqual(after, ["01:00", "23:00", "Thu 00:00", "Tue 01:00", "18 Mar 2026 00:00"])

    def test_past_moments_are_named_alike(self) -> None:
        self.assertEqual(local_words(NOW - dt.timedelta(hours=2), NOW), "Tue 23:00")
        self.assertEqual(full_words(NOW), "11 Mar 2026 01:00")
