import datetime as dt
from unittest import TestCase

import msgspec
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from normant_agent.errors import Refused
from normant_agent.orders.seal import expired, open_order
from normant_core.orders.kinds import SignedOrder, canonical

from .bench import NOW, order

KEY = Ed25519PrivateKey.generate()
PINNED = KEY.public_key().public_bytes_raw()


def signed(body: bytes, key: Ed25519PrivateKey = KEY) -> SignedOrder:
    return SignedOrder(body, key.sign(body))


class Seals(TestCase):
    def test_the_houses_order_for_this_seat_is_opened(self) -> None:
        self.assertEqual(open_order(signed(canonical(order())), key=PINNED, seat="pan-03"), order())

    def test_anything_else_is_refused(self) -> None:
        body = canonical(order())
        plain = msgspec.json.decode(body)
        forged = signed(body, Ed25519PrivateKey.generate())
        tampered = SignedOrder(body.replace(b"6554", b"9999"), KEY.sign(body))
        unknown = signed(msgspec.json.encode({**plain, "action": {"kind": "run", "command": "id"}}))
        extra = signed(msgspec.json.encode({**plain, "shell": "id"}))
        spaced = signed(body.replace(b",", b", "))
        for case, words in ((forged, "signature"), (tampered, "signature"), (unknown, "nothing that an agent does")):
            with self.subTest(words), self.assertRaisesRegex(Refused, words):
                open_order(case, key=PINNED, seat="pan-03")
        for case in (extra, spaced):
            with self.assertRaises(Refused):
                open_order(case, key=PINNED, seat="pan-03")
        with self.assertRaisesRegex(Refused, "for pan-03, not for loft-01"):
            open_order(signed(body), key=PINNED, seat="loft-01")

    def test_time_runs_out_by_the_seats_clock(self) -> None:
        self.assertFalse(expired(order(), NOW))
        self.assertTrue(expired(order(), NOW + dt.timedelta(hours=2)))
