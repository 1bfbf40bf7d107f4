"""What every app of the server stands on: refusals, requests, uploads, transactions."""
