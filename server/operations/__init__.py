"""What whoever runs the application needs: backup and restore, the demo, tidying, generated files."""
