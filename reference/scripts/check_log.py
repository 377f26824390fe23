"""Reads a night of the log that the program exported as ECSV with astropy, and says what it found as JSON: check_log.py FILE."""
import json
import sys

import numpy as np
from astropy.table import Table

table = Table.read(sys.argv[1], format="ascii.ecsv")
print(
    json.dumps(
        {
            "units": {name: str(table[name].unit) for name in table.colnames if table[name].unit is not None},
            "files": [str(v) for v in table["file"]],
            "kept": [bool(v) for v in table["kept"]],
            "stars": [int(v) for v in table["stars"]],
            "hfr_px": [float(v) for v in table["hfr_px"]],
            "reasons": [str(v) for v in table["reasons"]],
            "airmass_missing": [bool(v) for v in np.ma.getmaskarray(np.ma.array(table["airmass"]))],
        }
    )
)
