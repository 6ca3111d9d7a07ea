"""The calendar and the clock on the wall: days, hours and time zones, for what the core reckons in plain seconds."""
