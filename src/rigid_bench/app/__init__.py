"""What people do with the program, a module per thing: pages, jobs and commands call these, and only these write."""
