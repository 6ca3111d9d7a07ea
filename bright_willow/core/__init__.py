"""Pure computation: no files but its own tables, no clock, no web, no database."""
