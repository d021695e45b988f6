"""A HUD's texts in every language: extraction, catalogues and their errors. Knows no Qt."""
