"""Files told by their content, and refused where they are cut off. Loads no kernel."""
