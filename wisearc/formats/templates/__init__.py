"""Files of a template: DXF, PDF, CSV."""
