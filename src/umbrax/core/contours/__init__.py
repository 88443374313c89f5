"""Outlines: lines traced round a matte, told apart by what hides them, and drawn on."""
