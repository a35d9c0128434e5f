"""What processes beside the server have loaded before they are asked for anything.

Nothing of it becomes garbage, so it is not looked for meanwhile.
"""

from __future__ import annotations

import gc
from importlib import import_module

gc.disable()
for name in (
    "jutrel.service.inspection.paper",
    "jutrel.exchange.paper",
    "jutrel.exchange.handover",
    "jutrel.service.inspection.photo",
    "jutrel.core.route.pair",
):
    import_module(name)
gc.freeze()
gc.enable()
