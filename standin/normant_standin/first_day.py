"""What a newcomer finds in the demo: an errand that waits, a rollout that ended, one that its editor may put off, and
questions that runs have answered.
"""

import datetime as dt
import time
from collections.abc import Callable, Sequence
from typing import Any

import httpx

_WAIT_SECONDS = 90
_TONIGHT = 20  # o'clock
_POOL = ("memory.preview_pool", "corrow")
# One seat of each of four classes, and the devices of it that decode.
_DECODERS = {
    "kiln-03": ("cpu", "gpu0", "gpu1"),
    "kiln-02": ("cpu", "gpu0", "gpu1"),
    "sluice-02": ("cpu", "gpu0", "gpu1"),
    "weigh-01": ("cpu", "gpu0"),
}
_PROJECTS = {"seat": "pan-06", "app": "corrow", "storage": "/brine/media"}
_SCREENED = (
    ("engine.effects", "corrow", "hadrel"),
    ("memory.held_back", "corrow", "6.4 GiB"),
    (*_POOL, "12.8 GiB"),
    ("playback.scale", "corrow", "1/2"),
    ("playback.clip_pictures", "corrow", "one"),
    ("power.profile", None, "performance"),
    ("safety.autosave_every", "corrow", "5 min"),
)


class FirstDay:
    """The work of a supervisor's first day, done through the API once the seats were heard.

    Done once: a house that has any rollout or errand is left as it is.
    """

    def __init__(self, address: str, token: str, now: Callable[[], dt.datetime]) -> None:
        headers = {"Authorization": f"Bearer {token}"}
        self._client = httpx.Client(base_url=f"{address}/api/v1", headers=headers, trust_env=False, timeout=30)
        self._now = now

    def work(self) -> None:
        """Raises httpx.HTTPError where the server is gone or refuses."""
        with self._client:
            if self._ask("/rollouts")["total"] or self._ask("/errands")["stops"]:
                return
            self._post("/errands", {"findings": self._findings("pan-08", "driver.branch")})
            self._roll_out(self._findings("weigh-02", "delivery.ignore_errors"))
            self.scan_projects()
            self.measure()
            self._roll_out(self._findings("pan-03", "playback.scale"), begins=self._tonight())

    def _findings(self, seat: str, setting: str) -> list[int]:
        """Their numbers, once the seat is judged; none where it is not within a minute and a half."""
        deadline = time.monotonic() + _WAIT_SECONDS
        while True:
            items = self._ask(f"/findings?status=open&seat={seat}&limit=1000")["items"]
            numbers = [finding["id"] for finding in items if finding["setting"] == setting]
            if numbers or time.monotonic() > deadline:
                return numbers
            time.sleep(1)

    def _roll_out(self, findings: list[int], begins: dt.datetime | None = None) -> None:
        wanted = {"findings": findings, "terms": {"begins": begins.isoformat() if begins else None}}
        seen = self._post("/rollouts/plan", wanted)["digest"]
        self._post("/rollouts", {**wanted, "seen": seen})

    def scan_projects(self) -> None:
        """Ask a seat for its projects, once the server has a survey of it."""
        deadline = time.monotonic() + _WAIT_SECONDS
        while self._client.post("/projects/look", json=_PROJECTS).is_error and time.monotonic() < deadline:
            time.sleep(1)

    def measure(self) -> None:
        """What matters on a seat that nobody looked after; what previews pay; the middle option; devices."""
        factors = [[(setting, app, value)] for setting, app, value in _SCREENED]
        self._try("screening", ["pan-03"], factors, because="Which of these settings slows playback?")
        pools = [[(*_POOL, size)] for size in ("256 MiB", "12.8 GiB")]
        self._try("choice", ["pan-01", "pan-02", "pan-06"], pools, because="The rule has no evidence yet.")
        pictures = [[("playback.clip_pictures", "corrow", name)] for name in ("none", "one", "ends", "strip")]
        self._try("choice", ["pan-02"], pictures, because="The standard forbids the strip; is that justified?")
        for seat, devices in _DECODERS.items():
            for codec in ("avc/8/420", "hevc/10/422"):
                self._decode(seat, codec, devices)

    def _decode(self, seat: str, codec: str, devices: Sequence[str]) -> None:
        """Which device decodes a codec fastest; the first clip of it is the largest."""
        clip = next(clip["id"] for clip in self._ask("/clips")["items"] if clip["codec"] == codec)
        asked = {"kind": "choice", "job": "decode", "seats": [seat], "clip": clip}
        self._post("/trials", {**asked, "conditions": [{"device": name} for name in devices]})

    def _try(
        self, kind: str, seats: list[str], conditions: Sequence[Sequence[tuple[str, str | None, str]]], because: str
    ) -> None:
        sets = [
            {"sets": [{"setting": setting, "app": app, "value": value} for setting, app, value in condition]}
            for condition in conditions
        ]
        self._post("/trials", {"kind": kind, "job": "play", "seats": seats, "conditions": sets, "because": because})

    def _tonight(self) -> dt.datetime:
        now = self._now().astimezone()
        evening = now.replace(hour=_TONIGHT, minute=0, second=0, microsecond=0)
        return evening if evening > now else evening + dt.timedelta(days=1)

    def _ask(self, path: str) -> Any:
        return self._client.get(path).raise_for_status().json()

    def _post(self, path: str, body: dict[str, Any]) -> Any:
        return self._client.post(path, json=body).raise_for_status().json()
