"""At the arc: the phases of a run in the order of the work, what was done in each, and the beat that the hand goes by."""
