"""What tests lean on: a running program, a school in it, sample builds, shapes."""
