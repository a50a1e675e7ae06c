"""What a poster, a report and a product card say: sections as data, without layout."""
