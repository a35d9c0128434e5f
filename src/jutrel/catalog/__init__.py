"""Knowledge as data: families, models, failure modes, rules and regimes in YAML, checked when loaded."""

from jutrel.catalog.load import Catalog, catalog

__all__ = ["Catalog", "catalog"]
