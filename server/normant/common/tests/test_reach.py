"""Which addresses are the server's own machine, in whatever form they are written."""

import ipaddress
from unittest import TestCase
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from normant.common.reach import NotReached, place_of

NEAR = st.one_of(
    st.ip_addresses(network="127.0.0.0/8"), st.ip_addresses(network="169.254.0.0/16"), st.just("0.0.0.0")
).map(ipaddress.IPv4Address)
FORMS = {
    "as it is": str,
    "mapped": "::ffff:{}".format,
    "compatible": "::{}".format,
    "translated": "64:ff9b::{}".format,
    "translated within a house": "64:ff9b:1::{}".format,
    "over 6to4": lambda ip: str(ipaddress.IPv6Address((0x2002 << 112) | (int(ip) << 80))),
    "over Teredo": lambda ip: str(ipaddress.IPv6Address((0x20010000 << 96) | (int(ip) ^ 0xFFFFFFFF))),
}


def reached(ip: str) -> bool:
    """Whether the server speaks to a host with that address, in a house that names no hosts."""
    addresses = [(0, 0, 0, "", (ip, 80))]
    with patch("normant.common.reach.socket.getaddrinfo", return_value=addresses):
        try:
            return place_of("http://calendar.example/x", (), "X").ip == ip
        except NotReached:
            return False


class Near(TestCase):
    @given(NEAR, st.sampled_from(sorted(FORMS)))
    def test_this_machine_and_its_link_are_refused_in_every_form(self, ip: ipaddress.IPv4Address, form: str) -> None:
        self.assertFalse(reached(FORMS[form](ip)))

    def test_other_forms_of_this_machine_are_refused(self) -> None:
        for ip in ("::1", "::", "fe80::1", "fe80::1%eth0", "ff02::1", "224.0.0.1"):
            with self.subTest(ip):
                self.assertFalse(reached(ip))

    def test_other_machines_are_spoken_to(self) -> None:
        for ip in ("192.0.2.7", "2001:db8::7", "::ffff:192.0.2.7", "64:ff9b::c000:207", "2002:c000:207::1"):
            with self.subTest(ip):
                self.assertTrue(reached(ip))
