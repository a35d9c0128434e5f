"""Knowledge as data: families, models, failure modes, rules and regimes in YAML, checked when loaded."""

from jutrel.catalog.kept import catalog
from jutrel.catalog.whole import Catalog

__all__ = ["Catalog", "catalog"]
