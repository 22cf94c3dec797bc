"""What the stages of a job work out, as plain functions of ordinary arguments."""
