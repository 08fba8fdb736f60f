"""The photograph of a seam: its card, its measurements, and suitable joints."""
