"""Small calculations around the supply that need no design: a bulk capacitor, a measuring divider, an LED's resistor, a cell
from its datasheet."""
