"""Practice: the sheet under the torch, motion, scores, slips, tacks, rhythm and exercises."""
