"""The user guide inside the product: pages made from docs/guide by `tools/documents.py guide`."""

from .views import blueprint

__all__ = ["blueprint"]
