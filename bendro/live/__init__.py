"""What is going on at the lanes now, between open screens and instruments. Nothing here is a record."""
