"""All seats at once: judged by columns, explained by causes, waived, compared with another edition."""
