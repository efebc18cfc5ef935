"""Data in, sentences out. The only place with prose about a craft: what is judged stands in the core as numbers."""
