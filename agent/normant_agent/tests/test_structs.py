import subprocess
import sys
from unittest import TestCase

from normant_core.tests.at_once import AT_ONCE


class Structs(TestCase):
    def test_threads_that_decode_a_new_type_at_once_do_not_end_the_process(self) -> None:
        code = AT_ONCE.format(first="learn_structs()")
        ended = [subprocess.run([sys.executable, "-c", code], check=False).returncode for _ in range(6)]
        self.assertEqual(ended, [0] * 6)
