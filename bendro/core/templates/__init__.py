"""Pieces at true size from a plan's properties: outlines, folds, holes, laid on sheets; and how a device is built from them."""
