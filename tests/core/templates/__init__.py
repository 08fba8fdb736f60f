"""Copes, mitres, frames."""
