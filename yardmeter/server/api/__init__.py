"""The typed API: routers, schemas, and one map from errors to HTTP."""

from __future__ import annotations

from ninja import NinjaAPI

from yardmeter import __version__
from yardmeter.server.api.builds import router as builds
from yardmeter.server.api.errors import map_errors
from yardmeter.server.api.health import router as health
from yardmeter.server.api.noise import router as noise
from yardmeter.server.api.plans import router as plans
from yardmeter.server.api.shelf import router as shelf

api = NinjaAPI(title="Yard Meter", version=__version__, docs_url=None, urls_namespace="api")
map_errors(api)
api.add_router("", health)
api.add_router("/builds", builds)
api.add_router("/plans", plans)
api.add_router("", noise)
api.add_router("/shelf", shelf)
