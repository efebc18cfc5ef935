"""Text ↔ plan: plan JSON, SPICE netlist, CSV, SVG."""
