"""Reads an ECSV file that the program exported with astropy, and says what it found: check_ecsv.py FILE."""
import sys

from astropy.table import Table

table = Table.read(sys.argv[1], format="ascii.ecsv")
assert str(table["wavelength"].unit) == "nm", table["wavelength"].unit
assert len(table) >= 2 and (table["wavelength"][1:] > table["wavelength"][:-1]).all()
print(len(table), "rows,", table.colnames, table["wavelength"].unit, dict(table.meta))
