"""Use cases of the first page: recent work, the search, and a joint as text."""
