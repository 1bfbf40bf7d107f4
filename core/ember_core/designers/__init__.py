"""Small design tasks around the supply: a bulk capacitor, a measuring divider, a lamp's resistor."""
