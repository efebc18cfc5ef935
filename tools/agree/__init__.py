"""Whether every answer of the program says the same of one plan: statements, and plans to try them on."""
