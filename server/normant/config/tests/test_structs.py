import subprocess
import sys
from unittest import TestCase

from normant_core.tests.at_once import AT_ONCE


class Programs(TestCase):
    def test_the_web_process_has_learnt_its_types_before_it_serves(self) -> None:
        code = AT_ONCE.replace("from normant_core.base.structs import learn_structs\n", "")
        code = code.format(first="import normant.config.asgi")
        ended = [subprocess.run([sys.executable, "-c", code], check=False).returncode for _ in range(2)]
        self.assertEqual(ended, [0] * 2)
