"""The whole gadget, solved: everything that is known of a design, each thing worked out once and on demand. Below it
phenomena stand by themselves; above it they are spoken of."""
