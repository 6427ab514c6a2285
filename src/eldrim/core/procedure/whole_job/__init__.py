"""The least job: way in, order of steps and tools in one sum; what it takes of tools and parts."""
