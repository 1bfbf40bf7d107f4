"""What the gadget asks for: modes cut into operating points, their loads on the rails, the day and the year that give each
its share of the time, and one day as single events."""
