"""Families of mechanisms that drills are made from: a module for each sort, a function for each family."""
