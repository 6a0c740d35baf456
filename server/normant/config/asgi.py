"""The application that the server process runs: the gate before Django, and what starts and ends with the process.

Django's own ASGI handler serves a third of the requests that its WSGI handler does (docs/decisions/asgi-shell.md).
"""

import asyncio
from collections.abc import MutableMapping
from typing import Any

# Django must be set up before anything that knows a model is imported.
# isort: off
from .wsgi import application as django
from django.conf import settings
from normant.agents.quick import QuickDoor
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware
from .shell.answers import Send
from .shell.bodies import Receive
from .shell.callers import Callers
from .shell.gate import Gate
from .shell.hub import Hub, connection_of
from .shell.streams import Streams
from normant_core.base.structs import learn_structs
# isort: on

learn_structs()  # every operation is loaded, and no thread is at work yet

hub = Hub()
quick = QuickDoor(connection_of())
callers = Callers()
gate: Any = Gate(django, callers, Streams(hub, callers), quick)
if settings.NORMANT.proxies:  # whoever else names another address than their own is not believed
    gate = ProxyHeadersMiddleware(gate, trusted_hosts=list(settings.NORMANT.proxies))


async def application(scope: MutableMapping[str, Any], receive: Receive, send: Send) -> None:
    """ASGI 3."""
    if scope["type"] == "lifespan":
        await _lifespan(receive, send)
    else:
        await gate(scope, receive, send)


async def _lifespan(receive: Receive, send: Send) -> None:
    running = list[asyncio.Task[None]]()
    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            await quick.open()
            running = [asyncio.create_task(hub.listen()), asyncio.create_task(quick.call_judges())]
            await send({"type": "lifespan.startup.complete"})
        else:
            for task in running:
                task.cancel()
            await quick.close()
            await send({"type": "lifespan.shutdown.complete"})
            return
