"""What differs by kind, each described once: for storage, rules, the API and the web's types.

A kind is a `Spec` with a literal ``kind``; a union of kinds is one JSON column (`SpecField`).
docs/kinds.md says how to add one.
"""
