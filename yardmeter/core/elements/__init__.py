"""What a craft is made of, one kind a file: its law, its words in a netlist, and what its numbers mean. They know no plan."""
