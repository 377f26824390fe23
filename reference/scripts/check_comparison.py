"""Reads a comparison that the program exported as ECSV with astropy and prints what it found as JSON: check_comparison.py FILE."""
import json
import math
import sys

from astropy.table import Table

table = Table.read(sys.argv[1], format="ascii.ecsv")
print(
    json.dumps(
        {
            "units": {name: str(table[name].unit) for name in table.colnames if table[name].unit},
            "title": table.meta["title"],
            "name": [str(x) for x in table["name"]],
            "snr_ha": [float(x) for x in table["snr_ha"]],
            "missing_sii": [math.isnan(float(x)) for x in table["snr_sii"]],
        }
    )
)
