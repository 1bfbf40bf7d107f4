"""Small simulated stand-ins for outside devices: they speak what the devices speak, over real connections, and ship with the application."""
