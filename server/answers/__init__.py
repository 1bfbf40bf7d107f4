"""Stateless routes: a design or a typed text in, what the core says about it out. Nothing is stored."""
