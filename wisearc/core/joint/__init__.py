"""The joint: its declared fields, the parser, the rules, the sentence and the section."""
