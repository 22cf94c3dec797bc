"""The commands of the tool, each in the room of what it is about."""
