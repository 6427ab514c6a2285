"""Paper: the job sheet as PDF, A4, readable in grey."""
