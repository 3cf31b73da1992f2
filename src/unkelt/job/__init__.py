"""What a job is done with, beside the sheet itself."""
