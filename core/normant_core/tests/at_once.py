"""A program in which many threads decode types that are new to it."""

# Forty threads ask for the same new types at the same instant, and a switch comes between any two steps.
AT_ONCE = """
import sys, threading, msgspec
from normant_core.dialects.dialect import Dialect
from normant_core.judging.judge import Verdict
from normant_core.base.structs import learn_structs
sys.setswitchinterval(1e-6)
{first}
start = threading.Barrier(40)
def decode(number):
    start.wait()
    try:
        msgspec.json.decode(b'[{{"file": []}}]', type=list[Dialect] if number % 2 else list[Verdict])
    except msgspec.ValidationError:
        pass
threads = [threading.Thread(target=decode, args=(number,)) for number in range(40)]
for thread in threads: thread.start()
for thread in threads: thread.join()
"""
