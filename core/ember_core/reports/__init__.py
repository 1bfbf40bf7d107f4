"""The evaluation, step by step of the job: figures with their working, and the verdicts."""
