"""The Sheets bench: the pages a student gets, live, in that student's choices."""
