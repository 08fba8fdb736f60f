"""Documents of the record as PDF: typed views laid out as HTML, rendered without a network."""
