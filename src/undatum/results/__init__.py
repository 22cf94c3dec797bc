"""What a job gives: data, tables, words, comparison, and the folder it is kept in."""
