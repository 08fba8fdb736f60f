"""How a field of a document is declared, checked, read and written; no rule of the trade belongs
here.
"""
