"""Reads a plan that the program exported as iCalendar with the icalendar library and prints its events as JSON: check_ics.py FILE."""
import json
import sys
from zoneinfo import ZoneInfo

from icalendar import Calendar

calendar = Calendar.from_ical(open(sys.argv[1], "rb").read())
events = []
for event in calendar.walk("VEVENT"):
    start, end = event.decoded("dtstart"), event.decoded("dtend")
    events.append(
        {
            "summary": str(event["summary"]),
            "start_unix": start.timestamp(),
            "end_unix": end.timestamp(),
            "start_utc": start.isoformat(),
            "start_auckland": start.astimezone(ZoneInfo("Pacific/Auckland")).isoformat(),
            "alarms": len(event.walk("VALARM")),
        }
    )
print(json.dumps({"events": events}))
