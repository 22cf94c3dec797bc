"""What people read: figures, the calculation record, the workbook, the screen."""
