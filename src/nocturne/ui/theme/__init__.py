"""Colours, type and icons; style sheet and colours stand only here."""
